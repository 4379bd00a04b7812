/**
 * `node checks/web_mutants.mjs [count] [seed]`: a seeded sample of possible faults in the interface's pure modules, those that
 * have no markup and ask no server, each against the tests that reach it. Stryker makes the faults, vitest runs the
 * tests; what no test notices is listed.
 */
import { execFileSync } from "node:child_process";
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from "node:fs";

import { Instrumenter } from "@stryker-mutator/instrumenter";

const [count = 60, seed = 20261137] = process.argv.slice(2).map(Number);
const FOLDER = "var/mutants";
const REPORT = `${FOLDER}/web.json`;

/** Modules without markup, hooks or requests: functions from data to data. */
function pureModules() {
  const impure = /from "(react|react-router|@tanstack|.*client")|document\.|window\.|createRoot/;
  const all = readdirSync("web/src", { recursive: true }).map((name) => `web/src/${name}`);
  return all.filter((path) => {
    if (!path.endsWith(".ts")) return false;
    if (/\.test\.ts$|\.d\.ts$|\/test\//.test(path)) return false;
    // How a chart looks is looked at; the lines it draws come from modules that are sampled.
    if (/ptions\.ts$/.test(path)) return false;
    const text = readFileSync(path, "utf8").replaceAll(/import type [^;]*;/g, "");
    return !impure.test(text);
  });
}

/** Numbers from 0 to 1 that are the same for a seed on every machine (mulberry32). */
function* drawn(from) {
  for (let state = from >>> 0; ;) {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = Math.imul(state ^ (state >>> 15), state | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    yield ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  }
}

function sampled(all) {
  const next = drawn(seed);
  const keyed = all.map((each) => [next.next().value, each]);
  return keyed
    .sort(([a], [b]) => a - b)
    .slice(0, count)
    .map(([, each]) => each);
}

const silent = new Proxy({}, { get: () => () => false });
const files = pureModules()
  .sort()
  .map((name) => ({ name, mutate: true, content: readFileSync(name, "utf8") }));
const options = { plugins: null, excludedMutations: [], ignorers: [] };
const { mutants } = await new Instrumenter(silent).instrument(files, options);
const wanted = sampled(mutants);
const place = ({ start, end }) => `${start.line + 1}:${start.column}-${end.line + 1}:${end.column}`;
const key = (file, mutator, replacement, where) => [file, mutator, replacement, where].join("\u0000");
const chosen = new Set(wanted.map((m) => key(m.fileName, m.mutatorName, m.replacement, place(m.location))));

mkdirSync(FOLDER, { recursive: true });
const mutate = [...new Set(wanted.map((m) => `${m.fileName}:${place(m.location)}`))];
const base = JSON.parse(readFileSync("stryker.config.json", "utf8"));
writeFileSync(`${FOLDER}/stryker.json`, JSON.stringify({ ...base, mutate }));
execFileSync("npx", ["stryker", "run", `${FOLDER}/stryker.json`], { stdio: ["ignore", "ignore", "inherit"] });

const report = JSON.parse(readFileSync(REPORT, "utf8"));
let killed = 0;
let seen = 0;
for (const [file, { source, mutants: found }] of Object.entries(report.files)) {
  const lines = source.split("\n");
  for (const each of found) {
    // The report counts columns from one.
    const { start, end } = each.location;
    const where = `${start.line}:${start.column - 1}-${end.line}:${end.column - 1}`;
    if (!chosen.has(key(file, each.mutatorName, each.replacement, where))) continue;
    seen += 1;
    if (["Killed", "Timeout", "CompileError", "RuntimeError"].includes(each.status)) killed += 1;
    else
      console.log(
        `survived: ${file}:${start.line} (${each.status})\n    - ${lines[start.line - 1].trim()}\n    + ${each.replacement}`,
      );
  }
}
console.log(
  `  the web's pure modules (${files.length}): ${killed} of ${seen}, ${Math.round((100 * killed) / seen)} %`,
);
