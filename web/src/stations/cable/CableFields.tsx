import type { CableResult } from "../../api/client";
import { getAt } from "../../api/quantity";
import { CheckField } from "../../job/CheckField";
import { QuantityField } from "../../job/QuantityField";
import { SelectField } from "../../job/SelectField";
import { TextField } from "../../job/TextField";
import { usePlaces } from "../../job/usePlaces";
import { useWork } from "../../job/WorkContext";
import { lengthField } from "../../shop/units";
import { useShop } from "../../shop/useShop";
import { Button } from "../../ui/Button";
import { CautionList } from "../../ui/CautionList";
import { fixed } from "../../ui/format";
import { Group } from "../Split";
import { DropTest } from "./DropTest";
import { GaugeTest } from "./GaugeTest";
import { amplifierOf, placeOf, type CablePlace } from "./placeOf";
import { useLayout } from "./useCable";
import { CONDUCTORS } from "./words";

const RETURNS = [
  ["chassis", "through the body"],
  ["cable", "a cable of its own"],
  ["none", "none: it is a strap"],
] as const;

const FUSES = [
  ["", "usual for its rating"],
  ["blade", "blade"],
  ["bolt-in", "bolt-in"],
  ["breaker", "circuit breaker"],
] as const;
const TERMINALS = [
  ["", "unknown"],
  ["clamp", "bare wire or ferrules"],
  ["stud", "rings on a stud"],
] as const;

/** What is given of one cable, what is fitted along it, and what was measured on it. */
export function CableFields({ cable }: { cable: CableResult }) {
  const at = placeOf(cable);
  const length = lengthField(useShop());
  return (
    <>
      <Group key={at} title={cable.name}>
        <FedFrom cable={cable} />
        <TextField path={`${at}.size`} label="Size" figure hint="such as 4 AWG, 1/0 AWG or 25 mm²" />
        <QuantityField path={`${at}.length_m`} label="Length" {...length} />
        <QuantityField path={`${at}.runs`} label="Runs" unit="×" />
        <SelectField path={`${at}.conductor`} label="Conductor" options={CONDUCTORS} />
        <WayBack cable={cable} />
        <QuantityField path={`${at}.joints_ohm`} label="Joints and holder" unit="mΩ" per={1000} />
        <DropTest key={`${at} joints`} cable={cable} what="joints" />
        {cable.role !== "strap" && <FuseFields cable={cable} />}
        <QuantityField path="targets.drop_v" label="Drop allowed, total path" unit="V" />
        <details>
          <summary className="text-soft min-h-11 cursor-pointer py-2 text-sm">
            Heat, insulation, panels
          </summary>
          <QuantityField path={`${at}.insulation_c`} label="Insulation rated" unit="°C" />
          <QuantityField path={`${at}.ambient_c`} label="Around it" unit="°C" />
          <CheckField path={`${at}.engine_space`} label="In the engine's space" />
          <QuantityField path={`${at}.bundled`} label="Run together with" unit="×" />
          <QuantityField path={`${at}.grommets`} label="Panels it passes" unit="×" empty="usual" />
        </details>
        <TerminalFields cable={cable} />
        <GaugeTest key={`${at} gauge`} cable={cable} />
      </Group>
      <CautionList cautions={cable.cautions} />
      <TakeAway cable={cable} />
    </>
  );
}

/** Where an amplifier's lead starts: any place of the tree. */
function FedFrom({ cable }: { cable: CableResult }) {
  const places = usePlaces();
  if (cable.role !== "lead") return null;
  return <SelectField path={`${amplifierOf(cable)}.at`} label="Fed from" options={places} />;
}

function WayBack({ cable }: { cable: CableResult }) {
  const { job, change } = useWork();
  const at = `${placeOf(cable)}.return` as const;
  const way = getAt(job, at) as { kind?: string } | null | undefined;
  const kind = way?.kind ?? (cable.role === "lead" ? "cable" : "chassis");
  const options = cable.role === "lead" ? RETURNS.slice(0, 2) : RETURNS;
  return (
    <>
      <SelectField
        path={`${at}.kind`}
        label="Ground return"
        options={options}
        fallback={kind}
        onPick={(picked) => change(at, { kind: picked })}
      />
      {way && kind === "cable" && (
        <>
          <TextField path={`${at}.size`} label="Its size" hint="empty: like the cable out" />
          <BackLength at={at} />
        </>
      )}
      {(way || cable.role !== "lead") && kind !== "none" && (
        <QuantityField
          path={`${at}.resistance_ohm`}
          label="Ground return, ohms"
          unit="mΩ"
          per={1000}
          empty={fixed(cable.return_ohm * 1000, 2)}
        />
      )}
      {kind !== "none" && <DropTest key={`${at} back`} cable={cable} what="ground_return" />}
    </>
  );
}

function BackLength({ at }: { at: `${CablePlace}.return` }) {
  return (
    <QuantityField path={`${at}.length_m`} label="Its length" empty="same" {...lengthField(useShop())} />
  );
}

/** What the cable goes into: an amplifier's terminals, or the blocks at its ends. */
function TerminalFields({ cable }: { cable: CableResult }) {
  const { job, change } = useWork();
  const amplifier = amplifierOf(cable);
  const blocks = (job.nodes ?? []).flatMap((node, i) =>
    node.kind === "distribution" && [cable.start, cable.end].includes(node.name) ? [{ node, i }] : [],
  );
  if (cable.role !== "lead" && blocks.length === 0) return null;
  return (
    <details>
      <summary className="text-soft min-h-11 cursor-pointer py-2 text-sm">Terminals</summary>
      {cable.role === "lead" && (
        <>
          <TextField
            path={`${amplifier}.terminal_max`}
            label="Amplifier takes"
            hint="its thickest cable; empty: unknown"
          />
          <QuantityField path={`${amplifier}.terminal_inputs`} label="Inputs" unit="×" />
          <SelectField
            path={`${amplifier}.terminal_kind`}
            label="It takes"
            options={TERMINALS}
            onPick={(kind) => change(`${amplifier}.terminal_kind`, kind === "" ? null : kind)}
          />
        </>
      )}
      {blocks.map(({ node, i }) => (
        <TextField
          key={node.name}
          path={`nodes.${i}.terminal_max`}
          label={node.name}
          hint="its thickest cable; empty: unknown"
        />
      ))}
    </details>
  );
}

function FuseFields({ cable }: { cable: CableResult }) {
  const { change } = useWork();
  const at = placeOf(cable);
  return (
    <>
      <QuantityField path={`${at}.fuse_from_a`} label="Fuse at its start" unit="A" empty="none" />
      <QuantityField path={`${at}.fuse_to_a`} label="Fuse at its end" unit="A" empty="none" />
      <SelectField
        path={`${at}.fuse_kind`}
        label="Kind of fuse"
        options={FUSES}
        onPick={(kind) => change(`${at}.fuse_kind`, kind === "" ? null : kind)}
      />
      <QuantityField
        path={`${at}.fuse_distance_mm`}
        label="Fuse from the battery"
        unit="mm"
        empty="unknown"
      />
    </>
  );
}

function TakeAway({ cable }: { cable: CableResult }) {
  const { offers, make } = useLayout();
  const offer = offers.find((each) => each.key === `without:${cable.field.split(".")[1] ?? ""}`);
  if (cable.role === "lead" || !offer) return null;
  return (
    <div className="mt-3">
      <Button wide disabled={make.isPending} onClick={() => make.mutate(offer.key)}>
        Take it away
      </Button>
      <p className="text-soft mt-1 text-xs">{offer.does}.</p>
    </div>
  );
}
