/** The criteria in words, and how each is drawn: dash and symbol besides colour. */
export const CRITERIA = {
  thd1: { words: "1 % THD", colour: "--copper", dash: "solid", symbol: "circle" },
  clip: { words: "clipping", colour: "--teal", dash: [7, 4], symbol: "rect" },
  burst: { words: "burst", colour: "--ochre", dash: [2, 4], symbol: "triangle" },
  unstated: { words: "unstated", colour: "--soft", dash: [10, 3, 2, 3], symbol: "diamond" },
} as const;

export type Criterion = keyof typeof CRITERIA;
