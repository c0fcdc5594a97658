import type { ThemeConfig } from "antd";

const COLOURS = {
  paper: "#F6F1E6",
  light: "#FBF8F1",
  card: "#FFFDF7",
  band: "#F1E9D9",
  rule: "#D8CDB8",
  ruleFaint: "#E7DDCA",
  ink: "#1E2230",
  soft: "#645F50",
  coral: "#C8432B",
  surround: "#8A8B8C",
  wave: "#8F8871",
  waveInner: "#4A4F66",
  mark: "#8A5A00",
  good: "#1B6B52",
  doubt: "#8A5A00",
  bad: "#9C2F1D",
  shade: "#EDE4D1",
  barLine: "#B9AD92",
} as const;

/** Colours for whoever asked the system for more contrast. */
const STRONG = {
  paper: "#FFFFFF",
  light: "#FFFFFF",
  band: "#FFFFFF",
  shade: "#FFFFFF",
  rule: "#4A463A",
  ruleFaint: "#8F8871",
  soft: "#1E2230",
  wave: "#5E5848",
  barLine: "#645F50",
} as const;

/** Paper and ink: every colour of the interface, by what it is for. */
export const colour: Readonly<Record<keyof typeof COLOURS, string>> = {
  ...COLOURS,
  ...(globalThis.matchMedia?.("(prefers-contrast: more)").matches ? STRONG : {}),
};

/** Hues of the angles, 1 to 9: chosen to stay apart for colour-blind eyes; each use also carries the number. */
export const hues: readonly string[] = [
  "#1F5FA8",
  "#C98A00",
  "#1E8A6A",
  "#B05A94",
  "#6A51A3",
  "#7A5C3E",
  "#2A93B5",
  "#A33B4E",
  "#5C6B1F",
];

export function hueOf(hue: number): string {
  return hues[(hue - 1 + hues.length) % hues.length] ?? colour.ink;
}

export const fonts = {
  text: '"Atkinson Hyperlegible Next Variable", sans-serif',
  mono: '"Atkinson Hyperlegible Mono Variable", monospace',
} as const;

export const theme: ThemeConfig = {
  token: {
    colorPrimary: colour.coral,
    colorInfo: colour.ink,
    colorText: colour.ink,
    colorTextSecondary: colour.soft,
    colorBgBase: colour.light,
    colorBgContainer: colour.card,
    colorBgElevated: colour.card,
    colorBgLayout: colour.paper,
    colorTextPlaceholder: colour.soft,
    colorBorder: colour.ink,
    colorBorderSecondary: colour.rule,
    colorLink: colour.ink,
    colorSuccess: colour.good,
    colorError: colour.bad,
    borderRadius: 4,
    controlHeight: 28,
    fontFamily: fonts.text,
    fontSize: 13,
    wireframe: false,
    boxShadowSecondary: "0 2px 10px rgba(30,34,48,.18)",
  },
  components: {
    Button: { primaryShadow: "none", defaultShadow: "none", paddingInline: 10, defaultBg: colour.light },
    Segmented: {
      itemSelectedBg: colour.ink,
      itemSelectedColor: colour.card,
      trackBg: colour.band,
      trackPadding: 0,
      itemColor: colour.ink,
      controlHeight: 26,
    },
    Slider: {
      trackBg: colour.ink,
      trackHoverBg: colour.ink,
      railBg: colour.rule,
      handleColor: colour.ink,
      handleActiveColor: colour.coral,
    },
    Rate: { starColor: colour.mark, starBg: colour.rule },
    Progress: { defaultColor: colour.ink, remainingColor: colour.rule },
    Tooltip: { colorBgSpotlight: colour.ink },
    Modal: { contentBg: colour.light, headerBg: colour.light },
  },
};
