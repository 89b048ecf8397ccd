/** Colours of the canvas in daylight and at night; the same names as the page's custom properties. */

export interface Theme {
  name: "daylight" | "night";
  sheet: string;
  sheetOut: string;
  line: string;
  lineStrong: string;
  ink: string;
  muted: string;
  sung: string;
  tuned: string;
  tint: string;
  glaze: string;
  rail: string;
  band: string;
  select: string;
  selectWash: string;
  flag: string;
  wave: string;
  air: string;
  airWash: string;
  playhead: string;
}

export const DAYLIGHT: Theme = {
  name: "daylight",
  sheet: "#f6fbf9",
  sheetOut: "#e6efec",
  line: "#d3e0dc",
  lineStrong: "#b2c6c0",
  ink: "#14302d",
  muted: "#4a625e",
  sung: "#667682",
  tuned: "#0a6b4d",
  tint: "rgba(10, 107, 77, 0.20)",
  glaze: "rgba(20, 110, 150, 0.42)",
  rail: "#7d938d",
  band: "rgba(20, 90, 80, 0.10)",
  select: "#1c4fd6",
  selectWash: "rgba(28, 79, 214, 0.10)",
  flag: "#ab3a22",
  wave: "#cbdad5",
  air: "#5d7480",
  airWash: "rgba(93, 116, 128, 0.16)",
  playhead: "#14302d",
};

export const NIGHT: Theme = {
  name: "night",
  sheet: "#122021",
  sheetOut: "#0d1819",
  line: "#22383a",
  lineStrong: "#365457",
  ink: "#dcebe7",
  muted: "#9bb3ae",
  sung: "#93a5b1",
  tuned: "#5fd0a6",
  tint: "rgba(95, 208, 166, 0.22)",
  glaze: "rgba(120, 190, 235, 0.45)",
  rail: "#6c8781",
  band: "rgba(140, 220, 200, 0.10)",
  select: "#8fabff",
  selectWash: "rgba(143, 171, 255, 0.14)",
  flag: "#f28d72",
  wave: "#263c3e",
  air: "#8fa6b3",
  airWash: "rgba(143, 166, 179, 0.18)",
  playhead: "#dcebe7",
};

export { FONT } from "../geometry/text_width";
