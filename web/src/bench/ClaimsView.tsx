import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { Problem, type AmplifierOut, type Claim, type ClaimCheck } from "../api/client";
import { useKept } from "../drafts/useKept";
import { Button } from "../ui/Button";
import { Complaint } from "../ui/Complaint";
import { Figure } from "../ui/Figure";
import { FileButton } from "../ui/FileButton";
import { fixed, plain } from "../ui/format";
import { Table } from "../ui/Table";
import { CRITERIA } from "./criteria";
import { useImportClaims, useSaveAmplifier } from "./useAmplifier";
import { FigureInput } from "../ui/FigureInput";
import { Select } from "../ui/Select";
import { toNumber } from "../ui/number";
import { RemoveButton } from "../ui/RemoveButton";

const KINDS = [
  ["standard", "standard rating"],
  ["manual", "in the manual"],
  ["box", "on the box"],
  ["max", "“max”"],
] as const;

/** What the maker says, held against what was measured at the claim's own supply volts; fuses; price per watt. */
export function ClaimsView({ amplifier }: { amplifier: AmplifierOut }) {
  const { judged } = amplifier;
  const save = useSaveAmplifier(amplifier);
  const bring = useImportClaims(amplifier);
  const client = useQueryClient();
  const lookAgain = () => {
    save.reset();
    void client.invalidateQueries({ queryKey: ["amplifier", amplifier.id] });
  };
  return (
    <>
      <p className="mb-4 text-lg font-bold">{judged.verdict}</p>
      <Table
        label="Claims"
        head={[
          "Kind",
          "Load",
          "Supply",
          "Distortion",
          "Claimed",
          "Measured there",
          "Of the claim",
          "Level",
          "",
        ]}
      >
        {judged.claims.map((weighed, i) => (
          <Row
            key={i}
            weighed={weighed}
            onRemove={() => save.mutate({ claims: amplifier.claims.filter((_, n) => n !== i) })}
          />
        ))}
      </Table>
      <div className="mt-3 flex flex-wrap items-end justify-between gap-3">
        <AddClaim
          amplifierId={amplifier.id}
          onAdd={(claim, onSuccess) => save.mutate({ claims: [...amplifier.claims, claim] }, { onSuccess })}
        />
        <FileButton
          quiet
          label="Import claims"
          accept=".csv,text/csv"
          busy={bring.isPending}
          onFile={(file) => bring.mutate(file)}
        />
      </div>
      {save.error && <Complaint>{save.error.message}</Complaint>}
      {save.error instanceof Problem && save.error.status === 409 && (
        <Button className="mt-2" onClick={lookAgain}>
          See what is stored now
        </Button>
      )}
      {bring.error && <Complaint>{bring.error.message}</Complaint>}
      <div className="mt-7 grid grid-cols-2 gap-10 max-md:grid-cols-1">
        <section aria-label="price per measured watt">
          <h2>price per measured watt</h2>
          {judged.prices.length === 0 && (
            <p className="text-soft">Enter the price paid on the record, and measure it.</p>
          )}
          <Table label="Price per watt" head={["Criterion", "Load", "All channels", "A watt"]}>
            {judged.prices.map((each) => (
              <tr key={each.criterion}>
                <td>{CRITERIA[each.criterion].words}</td>
                <td className="figure">{plain(each.load_ohm)} Ω</td>
                <td className="figure">{fixed(each.watts, 0)} W</td>
                <td>{each.price_per_watt && <Figure figure={each.price_per_watt} size="medium" />}</td>
              </tr>
            ))}
          </Table>
        </section>
        <section aria-label="Its own fuses">
          <h2>What its own fuses allow</h2>
          {judged.fuses ? (
            <p className="mt-2">
              <Figure figure={judged.fuses} tone="copper" />{" "}
              <span className="text-soft">for long, at 14.4 V</span>
            </p>
          ) : (
            <p className="text-soft">No fuses on record.</p>
          )}
        </section>
      </div>
    </>
  );
}

const STANDING = {
  meets: ["✓ meets it", "text-moss"],
  short: ["▲ short", "text-ochre"],
  unmeasured: ["– not measured", "text-soft"],
} as const;

function Row({ weighed, onRemove }: { weighed: ClaimCheck; onRemove: () => void }) {
  const { claim, measured, share, db } = weighed;
  const [words, colour] = STANDING[weighed.standing];
  return (
    <tr>
      <td>{KINDS.find(([key]) => key === claim.kind)?.[1]}</td>
      <td className="figure">{plain(claim.load_ohm)} Ω</td>
      <td className="figure">{fixed(claim.supply_v ?? 14.4, 1)} V</td>
      <td className="figure">{claim.thd_percent == null ? "–" : `${plain(claim.thd_percent)} %`}</td>
      <td className="figure">{fixed(claim.power_w, 0)} W</td>
      <td>{measured ? <Figure figure={measured} tone="copper" size="medium" /> : weighed.remark}</td>
      <td className={`whitespace-nowrap ${colour}`}>
        {words}
        {share !== null && `, ${fixed(share * 100, 0)} %`}
      </td>
      <td className="figure">{db === null ? "–" : `${fixed(db, 1)} dB`}</td>
      <td>
        <RemoveButton label={`Remove the claim at ${plain(claim.load_ohm)} Ω`} onClick={onRemove} />
      </td>
    </tr>
  );
}

const EMPTY_CLAIM = {
  version: 0,
  document: { load_ohm: "", power_w: "", supply_v: "14.4", thd_percent: "1" },
};

interface AddProps {
  amplifierId: number;
  onAdd: (claim: Claim, onStored: () => void) => void;
}

/** A claim to be added; what was typed is kept until it is stored. */
function AddClaim({ amplifierId, onAdd }: AddProps) {
  const kept = useKept(`claim:${amplifierId}`, EMPTY_CLAIM);
  const text = kept.value;
  const setText = (typed: typeof text) => kept.set(typed);
  const [kind, setKind] = useState<Claim["kind"]>("standard");

  const field = (key: keyof typeof text, words: string) => (
    <FigureInput label={words} value={text[key]} onChange={(word) => setText({ ...text, [key]: word })} />
  );
  const thd = text.thd_percent.trim() === "" ? null : toNumber(text.thd_percent);
  const needed = [text.load_ohm, text.power_w, text.supply_v].map(toNumber);
  const ready = needed.every((each) => each > 0) && !Number.isNaN(thd);
  return (
    <div className="flex flex-wrap items-end gap-3">
      <label className="text-soft text-sm">
        Kind of claim
        <Select
          className="block"
          value={kind}
          onChange={(event) => setKind(event.target.value as Claim["kind"])}
        >
          {KINDS.map(([key, words]) => (
            <option key={key} value={key}>
              {words}
            </option>
          ))}
        </Select>
      </label>
      {field("load_ohm", "Load, Ω")}
      {field("power_w", "Claimed, W")}
      {field("supply_v", "Supply, V")}
      {field("thd_percent", "Distortion, %")}
      <Button
        disabled={!ready}
        onClick={() =>
          onAdd(
            {
              kind,
              load_ohm: toNumber(text.load_ohm),
              power_w: toNumber(text.power_w),
              supply_v: toNumber(text.supply_v),
              thd_percent: thd,
            },
            kept.throwAway,
          )
        }
      >
        Add the claim
      </Button>
    </div>
  );
}
