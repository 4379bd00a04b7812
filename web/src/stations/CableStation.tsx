import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, type CableReport } from "../api/client";
import { identity } from "../api/identity";
import { getAt, valueOf } from "../api/quantity";
import { QuantityField } from "../job/QuantityField";
import { SelectField } from "../job/SelectField";
import { TextField } from "../job/TextField";
import { useWork } from "../job/WorkContext";
import { Figure } from "../ui/Figure";
import { fixed } from "../ui/format";
import { Table } from "../ui/Table";
import { Cautions } from "./Cautions";
import { Group, Split } from "./Split";

const CONDUCTORS = [
  ["copper", "copper"],
  ["cca15", "copper-clad aluminium, 15 %"],
  ["cca10", "copper-clad aluminium, 10 %"],
  ["aluminium", "aluminium"],
] as const;
const RETURNS = [
  ["chassis", "through the body"],
  ["cable", "a cable of its own"],
] as const;

/** The cables on the way to the amplifiers: drop, heat, fuse, and the smallest size that passes. */
export function CableStation() {
  const { forecast } = useWork();
  const [chosen, setChosen] = useState(0);
  const cables = forecast?.cables ?? [];
  const index = Math.min(chosen, Math.max(cables.length - 1, 0));
  const cable = cables[index];
  if (!forecast || !cable)
    return (
      <p className="text-soft p-5">
        No cable yet: pick an amplifier at station 2, and its lead appears here.
      </p>
    );
  return (
    <Split given={<Given cable={cable} />}>
      <Group title="Cables, in the order of the current" aside={forecast.figures.drop_v && <WholeDrop />}>
        <Table
          label="Cables"
          head={["Cable", "Size", "Peak", "Drop", "RMS", "May carry", "Fuse", "Smallest that passes"]}
        >
          {cables.map((each, i) => (
            <tr key={each.name} className={i === index ? "bg-sunk" : ""}>
              <td>
                <button
                  className="min-h-11 text-left underline-offset-4 hover:underline"
                  aria-pressed={i === index}
                  onClick={() => setChosen(i)}
                >
                  {each.name}
                </button>
              </td>
              <td className="whitespace-nowrap">{times(each.runs, each.size)}</td>
              <td className="figure">{fixed(each.peak_a, 0)} A</td>
              <td className="figure text-teal">{fixed(each.drop_v, 3)} V</td>
              <td className="figure">{fixed(each.rms_a, 0)} A</td>
              <td className="figure">{fixed(each.ampacity_a, 0)} A</td>
              <td className="figure">{fuseOf(each)}</td>
              <td className="whitespace-nowrap">
                {each.smallest ? times(each.smallest_runs ?? 1, each.smallest) : "none"}
              </td>
            </tr>
          ))}
        </Table>
      </Group>
      <Choices index={index} cable={cable} />
      <Cautions station="cable" />
    </Split>
  );
}

function WholeDrop() {
  const { forecast } = useWork();
  const figure = forecast?.figures.drop_v;
  const first = forecast?.cables[0];
  if (!figure || !first) return null;
  return (
    <span className="text-sm">
      Whole way{" "}
      <Figure
        figure={figure}
        tone={figure.value > first.allowed_drop_v ? "vermilion" : "teal"}
        size="medium"
      />{" "}
      of {fixed(first.allowed_drop_v, 1)} V allowed
    </span>
  );
}

function times(runs: number, size: string): string {
  return runs > 1 ? `${runs} × ${size}` : size;
}

function fuseOf(cable: CableReport): string {
  return cable.fuse_a === null ? "none fits" : `${cable.fuse_a} A`;
}

function Given({ cable }: { cable: CableReport }) {
  const { setup } = useWork();
  const at = cable.field;
  const way = getAt(setup, `${at}.return`) as { kind?: string } | null | undefined;
  return (
    <Group title={cable.name}>
      <TextField path={`${at}.size`} label="Size" hint="such as 4 AWG, 1/0 AWG or 25 mm²" />
      <QuantityField path={`${at}.length_m`} label="Length" unit="m" />
      <QuantityField path={`${at}.runs`} label="Runs" unit="×" />
      <SelectField path={`${at}.conductor`} label="Conductor" options={CONDUCTORS} />
      {way && <SelectField path={`${at}.return.kind`} label="Way back" options={RETURNS} />}
      {way?.kind === "chassis" && (
        <QuantityField
          path={`${at}.return.resistance_ohm`}
          label="Way back"
          unit="mΩ"
          per={1000}
          empty="usual"
        />
      )}
      <QuantityField path={`${at}.joints_ohm`} label="Joints and holder" unit="mΩ" per={1000} />
      <QuantityField path={`${at}.fuse_from_a`} label="Fuse at the source" unit="A" empty="none" />
      <QuantityField path="targets.drop_v" label="Drop allowed, whole way" unit="V" />
    </Group>
  );
}

function Choices({ index, cable }: { index: number; cable: CableReport }) {
  const { setup, fresh, change } = useWork();
  const choices = useQuery({
    queryKey: ["cable-choices", identity(setup), index],
    queryFn: async ({ signal }) =>
      data(
        await api.POST("/api/cable-choices/{index}", {
          params: { path: { index } },
          body: { setup },
          signal,
        }),
      ),
    enabled: fresh,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 60_000,
  });
  const runs = valueOf(getAt(setup, `${cable.field}.runs`) as never) ?? 1;
  const alike = (choices.data ?? []).filter((choice) => choice.runs === runs);
  const firstPass = alike.findIndex((choice) => choice.passes);
  const middle = firstPass < 0 ? alike.length : firstPass;
  const shown = alike.slice(Math.max(0, middle - 3), middle + 4);
  return (
    <Group title={`Sizes for ${cable.name}, the others as they stand`}>
      <Table
        label="Sizes"
        head={["Size", "Drop, whole way", "Lost at RMS", "May carry", "Fuse", "Passes", ""]}
      >
        {shown.map((choice, i) => {
          const pick = choice === alike[firstPass];
          return (
            <tr key={`${choice.size} ${i}`} className={pick ? "bg-sunk font-bold" : ""}>
              <td className="pl-2! whitespace-nowrap">{times(choice.runs, choice.size)}</td>
              <td className="figure">{fixed(choice.path_drop_v, 2)} V</td>
              <td className="figure">{fixed(choice.loss_w, 1)} W</td>
              <td className="figure">{fixed(choice.ampacity_a, 0)} A</td>
              <td className="figure">{choice.fuse_a === null ? "–" : `${choice.fuse_a} A`}</td>
              <td className={`text-left! text-sm font-normal ${choice.passes ? "text-moss" : "text-soft"}`}>
                {choice.passes ? (pick ? "✓ the smallest that passes" : "✓ passes") : choice.why[0]}
              </td>
              <td>
                {choice.size !== cable.size && (
                  <button
                    className="hover:bg-sheet border-rule min-h-9 rounded-sm border px-3 font-normal"
                    aria-label={`Use ${choice.size}`}
                    onClick={() => change(`${cable.field}.size`, choice.size)}
                  >
                    Use
                  </button>
                )}
              </td>
            </tr>
          );
        })}
      </Table>
    </Group>
  );
}
