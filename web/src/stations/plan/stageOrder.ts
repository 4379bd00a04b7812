/** Stages as a person puts them together: each a list of steps by their titles. */
export type Stages = readonly (readonly string[])[];

/** The order with one stage moved up (−1) or down (1); as it is where there is no room. */
export function moved(stages: Stages, from: number, by: number): Stages {
  return movedTo(stages, from, from + by);
}

/** The order with one stage taken to another's place. */
export function movedTo(stages: Stages, from: number, to: number): Stages {
  const stage = stages[from];
  if (!stage || to < 0 || to >= stages.length || from === to) return stages;
  const rest = stages.filter((_, i) => i !== from);
  return [...rest.slice(0, to), stage, ...rest.slice(to)];
}

/** The order without a stage. */
export function skipped(stages: Stages, at: number): Stages {
  return stages.filter((_, i) => i !== at);
}

/** The order with one step in place of another. */
export function swapped(stages: Stages, old: string, title: string): Stages {
  return stages.map((stage) => stage.map((each) => (each === old ? title : each)));
}
