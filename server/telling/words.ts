import type { MessageFacts, Topic, Way } from "core/telling/index.ts"
import type { Knex } from "knex"
import type { PaperLanguage } from "words/papers.ts"
import { defaultTemplate } from "./defaults.ts"
import { render, type Template } from "./render.ts"

/**
 * What is said on a topic: by the template as somebody wrote it, else as it ships. One that has come to ask for what is
 * not there gives way to the latter.
 */
export async function wordsOn(
  db: Knex,
  topic: Topic,
  way: Way,
  language: PaperLanguage,
  facts: MessageFacts,
): Promise<Template> {
  const usual = defaultTemplate(topic, way, language)
  const own = await db("message_template").where({ topic, way, language }).first("subject", "body")
  try {
    return render(own ?? usual, facts)
  } catch {
    return render(usual, facts)
  }
}
