import type { Topic, Way } from "core/telling/index.ts"
import type { PaperLanguage } from "words/papers.ts"
import type { Template } from "./render.ts"

/** Templates as they are until somebody writes others: by topic, language and way. In Liquid; what each may say: `MessageFacts`. */
type Written = Readonly<Record<Topic, { readonly mail: Template; readonly text: string }>>

const en: Written = {
  received: {
    mail: {
      subject: "We have your order {{ purchase_order | default: order }}",
      body: `Hello{% if name != "" %} {{ name }}{% endif %},

we have your order {{ purchase_order | default: order }}.{% if promised_on != "" %} It is planned to arrive by {{ promised_on }}.{% endif %}

{% for line in lines %}{{ line.quantity }} × {{ line.description }}
{% endfor %}
Follow it here: {{ link }}`,
    },
    text: "{{ sender }}: we have your order {{ purchase_order | default: order }}. {{ link }}",
  },
  shipped: {
    mail: {
      subject: "Your order {{ purchase_order | default: order }} is packed",
      body: `Hello{% if name != "" %} {{ name }}{% endif %},

your order {{ purchase_order | default: order }} is packed and leaves by {{ carrier }} {{ service }}.{% if arrives_on != "" %} It should arrive on {{ arrives_on }}.{% endif %}

{% for package in packages %}{{ package.name }}: {{ package.tracking }}
{% endfor %}{% if note != "" %}
{{ note }}
{% endif %}
Follow it here: {{ link }}`,
    },
    text: "{{ sender }}: order {{ purchase_order | default: order }} is packed. {{ link }}",
  },
  left: {
    mail: {
      subject: "Your order {{ purchase_order | default: order }} is on its way",
      body: `Hello{% if name != "" %} {{ name }}{% endif %},

your order {{ purchase_order | default: order }} has left with {{ carrier }}.{% if arrives_on != "" %} It should arrive on {{ arrives_on }}.{% endif %}

{% for package in packages %}{{ package.name }}: {{ package.tracking }}
{% endfor %}{% if note != "" %}
{{ note }}
{% endif %}{% if thanks %}
Thank you for your order.
{% endif %}
Follow it here: {{ link }}`,
    },
    text: '{{ sender }}: order {{ purchase_order | default: order }} is on its way{% if arrives_on != "" %}, due {{ arrives_on }}{% endif %}. {{ link }}',
  },
  "out-for-delivery": {
    mail: {
      subject: "Your order {{ purchase_order | default: order }} arrives today",
      body: `Hello{% if name != "" %} {{ name }}{% endif %},

the driver has your order {{ purchase_order | default: order }} and brings it today to {{ receiver }}, {{ place }}.

Follow it here: {{ link }}`,
    },
    text: "{{ sender }}: order {{ purchase_order | default: order }} arrives today. {{ link }}",
  },
  delivered: {
    mail: {
      subject: "Your order {{ purchase_order | default: order }} was delivered",
      body: `Hello{% if name != "" %} {{ name }}{% endif %},

your order {{ purchase_order | default: order }} was delivered on {{ delivered_on }}{% if received_by != "" %} and taken by {{ received_by }}{% endif %}.

If something is missing or damaged, write back to us within five days.

{{ link }}`,
    },
    text: "{{ sender }}: order {{ purchase_order | default: order }} was delivered. {{ link }}",
  },
  delayed: {
    mail: {
      subject: "Your order {{ purchase_order | default: order }} comes later",
      body: `Hello{% if name != "" %} {{ name }}{% endif %},

{{ carrier }} now expects to deliver your order {{ purchase_order | default: order }} on {{ expected_on }}{% if promised_on != "" %} instead of {{ promised_on }}{% endif %}. We are sorry for the wait.

Follow it here: {{ link }}`,
    },
    text: "{{ sender }}: order {{ purchase_order | default: order }} now comes on {{ expected_on }}. {{ link }}",
  },
  ready: {
    mail: {
      subject: "Your order {{ purchase_order | default: order }} is ready for pickup",
      body: `Hello{% if name != "" %} {{ name }}{% endif %},

your order {{ purchase_order | default: order }} is ready for you at {{ counter }}. Bring an ID and this message.

{{ link }}`,
    },
    text: "{{ sender }}: order {{ purchase_order | default: order }} is ready at {{ counter }}. {{ link }}",
  },
  "return-arrived": {
    mail: {
      subject: "Your return {{ return_name }} has arrived",
      body: `Hello{% if name != "" %} {{ name }}{% endif %},

the goods you sent back from your order {{ purchase_order | default: order }} are here. Our number for them is {{ return_name }}. We check them next and write to you again.`,
    },
    text: "{{ sender }}: your return {{ return_name }} has arrived. We check it next.",
  },
  "return-inspected": {
    mail: {
      subject: "Your return {{ return_name }} has been checked",
      body: `Hello{% if name != "" %} {{ name }}{% endif %},

we checked what came back from your order {{ purchase_order | default: order }}, return {{ return_name }}:

{% for item in returned %}{{ item.description }}: {{ item.sound }} good{% if item.damaged > 0 %}, {{ item.damaged }} damaged{% endif %}{% if item.missing > 0 %}, {{ item.missing }} missing{% endif %}
{% endfor %}
If this differs from what you sent, write back to us.`,
    },
    text: "{{ sender }}: your return {{ return_name }} has been checked. The details are in your e-mail.",
  },
  "return-label": {
    mail: {
      subject: "Return label for your order {{ purchase_order | default: order }}",
      body: `Hello{% if name != "" %} {{ name }}{% endif %},

the label to send your order {{ purchase_order | default: order }} back is attached. It goes by {{ service }} and can be used until {{ valid_until }}. Print it, put it on the package over the old label, and hand the package to the carrier.`,
    },
    text: "{{ sender }}: the return label for order {{ purchase_order | default: order }} is in your e-mail.",
  },
  quote: {
    mail: {
      subject: "Freight quote {{ quote }}",
      body: `Hello{% if name != "" %} {{ name }}{% endif %},

our freight quote {{ quote }} is attached. It holds until {{ valid_until }}.`,
    },
    text: "{{ sender }}: quote {{ quote }} is in your e-mail, good until {{ valid_until }}.",
  },
}

const de: Written = {
  received: {
    mail: {
      subject: "Ihre Bestellung {{ purchase_order | default: order }} ist eingegangen",
      body: `Guten Tag{% if name != "" %} {{ name }}{% endif %},

Ihre Bestellung {{ purchase_order | default: order }} ist bei uns eingegangen.{% if promised_on != "" %} Sie soll bis {{ promised_on }} bei Ihnen sein.{% endif %}

{% for line in lines %}{{ line.quantity }} × {{ line.description }}
{% endfor %}
Hier sehen Sie, wo sie ist: {{ link }}`,
    },
    text: "{{ sender }}: Bestellung {{ purchase_order | default: order }} ist eingegangen. {{ link }}",
  },
  shipped: {
    mail: {
      subject: "Ihre Bestellung {{ purchase_order | default: order }} ist gepackt",
      body: `Guten Tag{% if name != "" %} {{ name }}{% endif %},

Ihre Bestellung {{ purchase_order | default: order }} ist gepackt und geht mit {{ carrier }} {{ service }}.{% if arrives_on != "" %} Sie soll am {{ arrives_on }} ankommen.{% endif %}

{% for package in packages %}{{ package.name }}: {{ package.tracking }}
{% endfor %}{% if note != "" %}
{{ note }}
{% endif %}
Hier sehen Sie, wo sie ist: {{ link }}`,
    },
    text: "{{ sender }}: Bestellung {{ purchase_order | default: order }} ist gepackt. {{ link }}",
  },
  left: {
    mail: {
      subject: "Ihre Bestellung {{ purchase_order | default: order }} ist unterwegs",
      body: `Guten Tag{% if name != "" %} {{ name }}{% endif %},

Ihre Bestellung {{ purchase_order | default: order }} ist mit {{ carrier }} unterwegs.{% if arrives_on != "" %} Sie soll am {{ arrives_on }} ankommen.{% endif %}

{% for package in packages %}{{ package.name }}: {{ package.tracking }}
{% endfor %}{% if note != "" %}
{{ note }}
{% endif %}{% if thanks %}
Vielen Dank für Ihre Bestellung.
{% endif %}
Hier sehen Sie, wo sie ist: {{ link }}`,
    },
    text: '{{ sender }}: Bestellung {{ purchase_order | default: order }} ist unterwegs{% if arrives_on != "" %}, Ankunft {{ arrives_on }}{% endif %}. {{ link }}',
  },
  "out-for-delivery": {
    mail: {
      subject: "Ihre Bestellung {{ purchase_order | default: order }} kommt heute",
      body: `Guten Tag{% if name != "" %} {{ name }}{% endif %},

der Fahrer hat Ihre Bestellung {{ purchase_order | default: order }} dabei und bringt sie heute zu {{ receiver }}, {{ place }}.

Hier sehen Sie, wo sie ist: {{ link }}`,
    },
    text: "{{ sender }}: Bestellung {{ purchase_order | default: order }} kommt heute. {{ link }}",
  },
  delivered: {
    mail: {
      subject: "Ihre Bestellung {{ purchase_order | default: order }} ist zugestellt",
      body: `Guten Tag{% if name != "" %} {{ name }}{% endif %},

Ihre Bestellung {{ purchase_order | default: order }} wurde am {{ delivered_on }} zugestellt{% if received_by != "" %} und von {{ received_by }} angenommen{% endif %}.

Fehlt etwas oder ist etwas beschädigt, schreiben Sie uns innerhalb von fünf Tagen.

{{ link }}`,
    },
    text: "{{ sender }}: Bestellung {{ purchase_order | default: order }} ist zugestellt. {{ link }}",
  },
  delayed: {
    mail: {
      subject: "Ihre Bestellung {{ purchase_order | default: order }} kommt später",
      body: `Guten Tag{% if name != "" %} {{ name }}{% endif %},

{{ carrier }} will Ihre Bestellung {{ purchase_order | default: order }} nun am {{ expected_on }} zustellen{% if promised_on != "" %} statt am {{ promised_on }}{% endif %}. Wir bitten um Entschuldigung.

Hier sehen Sie, wo sie ist: {{ link }}`,
    },
    text: "{{ sender }}: Bestellung {{ purchase_order | default: order }} kommt nun am {{ expected_on }}. {{ link }}",
  },
  ready: {
    mail: {
      subject: "Ihre Bestellung {{ purchase_order | default: order }} liegt bereit",
      body: `Guten Tag{% if name != "" %} {{ name }}{% endif %},

Ihre Bestellung {{ purchase_order | default: order }} liegt für Sie bereit: {{ counter }}. Bringen Sie einen Ausweis und diese Nachricht mit.

{{ link }}`,
    },
    text: "{{ sender }}: Bestellung {{ purchase_order | default: order }} liegt bereit: {{ counter }}. {{ link }}",
  },
  "return-arrived": {
    mail: {
      subject: "Ihre Rücksendung {{ return_name }} ist angekommen",
      body: `Guten Tag{% if name != "" %} {{ name }}{% endif %},

Ihre Rücksendung zur Bestellung {{ purchase_order | default: order }} ist bei uns angekommen. Unsere Nummer dafür ist {{ return_name }}. Wir prüfen die Ware und melden uns wieder.`,
    },
    text: "{{ sender }}: Ihre Rücksendung {{ return_name }} ist angekommen. Wir prüfen sie.",
  },
  "return-inspected": {
    mail: {
      subject: "Ihre Rücksendung {{ return_name }} ist geprüft",
      body: `Guten Tag{% if name != "" %} {{ name }}{% endif %},

wir haben Ihre Rücksendung {{ return_name }} zur Bestellung {{ purchase_order | default: order }} geprüft:

{% for item in returned %}{{ item.description }}: {{ item.sound }} in Ordnung{% if item.damaged > 0 %}, {{ item.damaged }} beschädigt{% endif %}{% if item.missing > 0 %}, {{ item.missing }} fehlen{% endif %}
{% endfor %}
Stimmt das nicht mit Ihrer Sendung überein, schreiben Sie uns.`,
    },
    text: "{{ sender }}: Ihre Rücksendung {{ return_name }} ist geprüft. Näheres steht in Ihrer E-Mail.",
  },
  "return-label": {
    mail: {
      subject: "Rücksendeetikett für Ihre Bestellung {{ purchase_order | default: order }}",
      body: `Guten Tag{% if name != "" %} {{ name }}{% endif %},

das Etikett für die Rücksendung Ihrer Bestellung {{ purchase_order | default: order }} liegt bei. Es geht mit {{ service }} und gilt bis {{ valid_until }}. Kleben Sie es über das alte Etikett und geben Sie das Paket dem Paketdienst.`,
    },
    text: "{{ sender }}: Das Rücksendeetikett für Bestellung {{ purchase_order | default: order }} ist in Ihrer E-Mail.",
  },
  quote: {
    mail: {
      subject: "Frachtangebot {{ quote }}",
      body: `Guten Tag{% if name != "" %} {{ name }}{% endif %},

unser Frachtangebot {{ quote }} liegt bei. Es gilt bis {{ valid_until }}.`,
    },
    text: "{{ sender }}: Angebot {{ quote }} ist in Ihrer E-Mail, gültig bis {{ valid_until }}.",
  },
}

const fr: Written = {
  received: {
    mail: {
      subject: "Nous avons reçu votre commande {{ purchase_order | default: order }}",
      body: `Bonjour{% if name != "" %} {{ name }}{% endif %},

nous avons reçu votre commande {{ purchase_order | default: order }}.{% if promised_on != "" %} Elle doit arriver au plus tard le {{ promised_on }}.{% endif %}

{% for line in lines %}{{ line.quantity }} × {{ line.description }}
{% endfor %}
Suivez-la ici : {{ link }}`,
    },
    text: "{{ sender }} : commande {{ purchase_order | default: order }} reçue. {{ link }}",
  },
  shipped: {
    mail: {
      subject: "Votre commande {{ purchase_order | default: order }} est emballée",
      body: `Bonjour{% if name != "" %} {{ name }}{% endif %},

votre commande {{ purchase_order | default: order }} est emballée et part avec {{ carrier }} {{ service }}.{% if arrives_on != "" %} Elle doit arriver le {{ arrives_on }}.{% endif %}

{% for package in packages %}{{ package.name }} : {{ package.tracking }}
{% endfor %}{% if note != "" %}
{{ note }}
{% endif %}
Suivez-la ici : {{ link }}`,
    },
    text: "{{ sender }} : commande {{ purchase_order | default: order }} emballée. {{ link }}",
  },
  left: {
    mail: {
      subject: "Votre commande {{ purchase_order | default: order }} est en route",
      body: `Bonjour{% if name != "" %} {{ name }}{% endif %},

votre commande {{ purchase_order | default: order }} est partie avec {{ carrier }}.{% if arrives_on != "" %} Elle doit arriver le {{ arrives_on }}.{% endif %}

{% for package in packages %}{{ package.name }} : {{ package.tracking }}
{% endfor %}{% if note != "" %}
{{ note }}
{% endif %}{% if thanks %}
Merci pour votre commande.
{% endif %}
Suivez-la ici : {{ link }}`,
    },
    text: '{{ sender }} : commande {{ purchase_order | default: order }} en route{% if arrives_on != "" %}, arrivée le {{ arrives_on }}{% endif %}. {{ link }}',
  },
  "out-for-delivery": {
    mail: {
      subject: "Votre commande {{ purchase_order | default: order }} arrive aujourd’hui",
      body: `Bonjour{% if name != "" %} {{ name }}{% endif %},

le chauffeur a votre commande {{ purchase_order | default: order }} et l’apporte aujourd’hui à {{ receiver }}, {{ place }}.

Suivez-la ici : {{ link }}`,
    },
    text: "{{ sender }} : commande {{ purchase_order | default: order }} livrée aujourd’hui. {{ link }}",
  },
  delivered: {
    mail: {
      subject: "Votre commande {{ purchase_order | default: order }} est livrée",
      body: `Bonjour{% if name != "" %} {{ name }}{% endif %},

votre commande {{ purchase_order | default: order }} a été livrée le {{ delivered_on }}{% if received_by != "" %} et reçue par {{ received_by }}{% endif %}.

S’il manque quelque chose ou si un article est abîmé, répondez-nous dans les cinq jours.

{{ link }}`,
    },
    text: "{{ sender }} : commande {{ purchase_order | default: order }} livrée. {{ link }}",
  },
  delayed: {
    mail: {
      subject: "Votre commande {{ purchase_order | default: order }} arrive plus tard",
      body: `Bonjour{% if name != "" %} {{ name }}{% endif %},

{{ carrier }} prévoit maintenant de livrer votre commande {{ purchase_order | default: order }} le {{ expected_on }}{% if promised_on != "" %} au lieu du {{ promised_on }}{% endif %}. Nous vous prions de nous excuser.

Suivez-la ici : {{ link }}`,
    },
    text: "{{ sender }} : commande {{ purchase_order | default: order }} attendue le {{ expected_on }}. {{ link }}",
  },
  ready: {
    mail: {
      subject: "Votre commande {{ purchase_order | default: order }} est prête",
      body: `Bonjour{% if name != "" %} {{ name }}{% endif %},

votre commande {{ purchase_order | default: order }} vous attend : {{ counter }}. Apportez une pièce d’identité et ce message.

{{ link }}`,
    },
    text: "{{ sender }} : commande {{ purchase_order | default: order }} prête : {{ counter }}. {{ link }}",
  },
  "return-arrived": {
    mail: {
      subject: "Votre retour {{ return_name }} est arrivé",
      body: `Bonjour{% if name != "" %} {{ name }}{% endif %},

votre retour de la commande {{ purchase_order | default: order }} est arrivé chez nous. Notre numéro est {{ return_name }}. Nous contrôlons la marchandise et revenons vers vous.`,
    },
    text: "{{ sender }} : votre retour {{ return_name }} est arrivé. Nous le contrôlons.",
  },
  "return-inspected": {
    mail: {
      subject: "Votre retour {{ return_name }} est contrôlé",
      body: `Bonjour{% if name != "" %} {{ name }}{% endif %},

nous avons contrôlé votre retour {{ return_name }} de la commande {{ purchase_order | default: order }} :

{% for item in returned %}{{ item.description }} : {{ item.sound }} en bon état{% if item.damaged > 0 %}, {{ item.damaged }} abîmés{% endif %}{% if item.missing > 0 %}, {{ item.missing }} manquants{% endif %}
{% endfor %}
Si cela ne correspond pas à votre envoi, répondez-nous.`,
    },
    text: "{{ sender }} : votre retour {{ return_name }} est contrôlé. Les détails sont dans votre e-mail.",
  },
  "return-label": {
    mail: {
      subject: "Étiquette de retour pour votre commande {{ purchase_order | default: order }}",
      body: `Bonjour{% if name != "" %} {{ name }}{% endif %},

l’étiquette pour retourner votre commande {{ purchase_order | default: order }} est jointe. Elle part avec {{ service }} et vaut jusqu’au {{ valid_until }}. Collez-la sur l’ancienne étiquette et remettez le colis au transporteur.`,
    },
    text: "{{ sender }} : l’étiquette de retour de la commande {{ purchase_order | default: order }} est dans votre e-mail.",
  },
  quote: {
    mail: {
      subject: "Devis de transport {{ quote }}",
      body: `Bonjour{% if name != "" %} {{ name }}{% endif %},

notre devis {{ quote }} est joint. Il vaut jusqu’au {{ valid_until }}.`,
    },
    text: "{{ sender }} : le devis {{ quote }} est dans votre e-mail, valable jusqu’au {{ valid_until }}.",
  },
}

const written: Readonly<Record<PaperLanguage, Written>> = { en, de, fr }

/** The template that is used where nobody has written another. */
export function defaultTemplate(topic: Topic, way: Way, language: PaperLanguage): Template {
  const own = written[language][topic]
  return way === "mail" ? own.mail : { subject: "", body: own.text }
}
