import { createSystem, defaultBaseConfig, defineConfig, defineRecipe, defineSlotRecipe } from "@chakra-ui/react"
import { faces, palette } from "./tokens.ts"

const colors = Object.fromEntries(Object.entries(palette).map(([name, value]) => [name, { value }]))
const fonts = Object.fromEntries(Object.entries(faces).map(([name, value]) => [name, { value }]))

const focus = { outline: "2px solid {colors.ink}", outlineOffset: "2px" }
const control = {
  bg: "hi",
  color: "ink",
  border: "1px solid {colors.ink}",
  borderRadius: "0",
  minH: "32px",
  px: "8px",
  fontFamily: "read",
  fontSize: "14px",
  width: "100%",
  _focusVisible: focus,
  _invalid: { borderColor: "ember", borderWidth: "2px" },
}

/** Chakra's parts in our theme; only the recipes of the parts that are used. */
export const system = createSystem(
  defaultBaseConfig,
  defineConfig({
    cssVarsPrefix: "vk",
    cssVarsRoot: ":root",
    globalCss: {
      html: { bg: "paper", color: "ink", fontFamily: "read", fontSize: "13px", lineHeight: "17px" },
      "*:focus-visible": focus,
    },
    theme: {
      tokens: { colors, fonts, radii: { none: { value: "0" }, xs: { value: "2px" } } },
      semanticTokens: {
        colors: {
          bg: { paper: { value: "{colors.paper}" }, hi: { value: "{colors.hi}" }, night: { value: "{colors.ink}" } },
          fg: { ink: { value: "{colors.ink}" }, hot: { value: "{colors.hot}" }, ember: { value: "{colors.ember}" } },
        },
      },
      recipes: {
        button: defineRecipe({
          className: "vk-button",
          base: {
            display: "inline-flex",
            alignItems: "center",
            justifyContent: "center",
            gap: "8px",
            minH: "28px",
            px: "10px",
            borderRadius: "0",
            border: "1px solid {colors.ink}",
            fontFamily: "read",
            fontSize: "13px",
            fontWeight: "600",
            cursor: "pointer",
            whiteSpace: "nowrap",
            _focusVisible: focus,
            _disabled: { color: "ink3", borderColor: "rule", cursor: "not-allowed" },
          },
          variants: {
            variant: {
              plain: { bg: "transparent", color: "ink", _hover: { bg: "hi" } },
              solid: { bg: "ink", color: "bone", _hover: { bg: "ink2" } },
              ghost: {
                border: "none",
                px: "0px",
                bg: "transparent",
                textDecoration: "underline",
                textUnderlineOffset: "3px",
                minH: "24px",
              },
            },
          },
          defaultVariants: { variant: "plain" },
        }),
        input: defineRecipe({ className: "vk-input", base: control }),
      },
      slotRecipes: {
        field: defineSlotRecipe({
          className: "vk-field",
          slots: ["root", "label", "requiredIndicator", "helperText", "errorText"],
          base: {
            root: { display: "flex", flexDirection: "column", gap: "4px", width: "100%" },
            label: { fontSize: "12px", color: "ink2" },
            helperText: { fontSize: "12px", color: "ink2" },
            errorText: { fontSize: "12px", color: "ember", fontWeight: "600" },
          },
        }),
        nativeSelect: defineSlotRecipe({
          className: "vk-select",
          slots: ["root", "field", "indicator"],
          base: {
            root: { position: "relative", width: "100%" },
            field: { ...control, appearance: "none", pr: "28px" },
            indicator: {
              position: "absolute",
              right: "8px",
              top: "50%",
              transform: "translateY(-50%)",
              pointerEvents: "none",
            },
          },
        }),
      },
    },
  }),
)
