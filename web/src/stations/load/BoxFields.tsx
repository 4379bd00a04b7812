import { QuantityField } from "../../job/QuantityField";
import { useWork } from "../../job/WorkContext";
import { Select } from "../../ui/Select";
import { Group } from "../Split";

const BOXES = [
  ["", "not entered"],
  ["infinite_baffle", "open to the boot (infinite baffle)"],
  ["sealed", "sealed"],
  ["vented", "vented"],
  ["measured", "another kind: measured sweep"],
] as const;

/** The enclosure of a load. */
export function BoxFields({ index }: { index: number }) {
  const { job, change } = useWork();
  const at = `amplifiers.${index}.load.box` as const;
  const box = job.amplifiers?.[index]?.load?.box;
  const choose = (kind: string) =>
    change(
      at,
      kind === ""
        ? null
        : {
            kind,
            volume_l: box?.volume_l ?? { value: 60, origin: "assumed" },
            tuning_hz: kind === "vented" ? (box?.tuning_hz ?? { value: 33, origin: "assumed" }) : null,
          },
    );
  return (
    <Group title="Box">
      <Select
        aria-label="Box"
        className="w-full"
        value={box?.kind ?? ""}
        onChange={(event) => choose(event.target.value)}
      >
        {BOXES.map(([key, words]) => (
          <option key={key} value={key}>
            {words}
          </option>
        ))}
      </Select>
      {(box?.kind === "sealed" || box?.kind === "vented") && (
        <QuantityField path={`${at}.volume_l`} label="Volume, whole box" unit="l" />
      )}
      {box?.kind === "vented" && (
        <>
          <QuantityField path={`${at}.tuning_hz`} label="Tuned to" unit="Hz" />
          <QuantityField path={`${at}.ql`} label="Leakage Q" />
        </>
      )}
    </Group>
  );
}
