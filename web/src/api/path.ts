import type { Job } from "./client";

type Leaf = string | number | boolean | null | undefined;
type Join<A extends string, B> = B extends string ? `${A}.${B}` : never;

/** Every dotted path that leads somewhere in a type: "banks.0.charge", with any number where a list has its places. */
export type PathOf<T> = T extends Leaf
  ? never
  : T extends readonly (infer Each)[]
    ? `${number}` | Join<`${number}`, PathOf<NonNullable<Each>>>
    : { [K in keyof T & string]: K | Join<K, PathOf<NonNullable<T[K]>>> }[keyof T & string];

/** A path of the job file: one that leads nowhere is found when the interface is built, not when a value is lost. */
export type JobPath = PathOf<Job>;
