import type { AmplifierOut } from "../api/client";
import { fixed, plain, watts } from "../ui/format";
import { Table } from "../ui/Table";

/** The bench's own supply: how stiff it is, what its sag took from the readings, and where to set it. */
export function StiffnessView({ amplifier }: { amplifier: AmplifierOut }) {
  const { source, readings } = amplifier.stiffness;
  const limited = readings.filter((each) => each.limited);
  if (readings.length === 0)
    return <p className="text-soft">No reading says what the supply did: note the volts under load.</p>;
  return (
    <>
      {source ? (
        <p className="mb-1">
          Source resistance of the bench:{" "}
          <span className="figure text-teal text-lg">{fixed(source.ohm * 1000, 2)} mΩ</span>
          {source.spread_ohm !== null && <> ± {fixed(source.spread_ohm * 1000, 2)} mΩ</>}
          <span className="text-soft">
            , {source.words}, over {source.readings} readings
            {source.amps_estimated > 0 &&
              `; the amps of ${source.amps_estimated} were not read but worked out from the output`}
            . Bursts do not count.
          </span>
        </p>
      ) : (
        <p className="text-soft mb-1">
          The readings do not show how stiff the supply is: note volts before, and amps.
        </p>
      )}
      <p className={`mb-3 ${limited.length > 0 ? "text-ochre" : "text-moss"}`}>
        {limited.length > 0
          ? `▲ ${limited.length} of ${readings.length} readings were limited by the bench, not by the amplifier: it fell by more than 0.7 V.`
          : "✓ No reading was limited by the bench."}
      </p>
      <Table
        label="Readings at held volts"
        head={[
          "Row",
          "Load",
          "As read",
          "Sag",
          "Lost to it",
          "Held at 14.4 V",
          "Set the supply to, to see 14.4 V",
        ]}
      >
        {readings.map((each) => (
          <tr key={each.row} className={each.limited ? "text-ochre" : ""}>
            <td>
              {each.row} {each.limited && <span aria-label="limited by the bench">▲</span>}
            </td>
            <td className="figure">{plain(each.load_ohm)} Ω</td>
            <td className="figure">{watts(each.as_read_w)} W</td>
            <td className="figure">{each.sag_v === null ? "–" : `${fixed(each.sag_v, 2)} V`}</td>
            <td className="figure">{each.lost_db === null ? "–" : `${fixed(each.lost_db, 2)} dB`}</td>
            <td className="figure">{watts(each.held_w)} W</td>
            <td className="figure">{each.set_v === null ? "–" : `${fixed(each.set_v, 2)} V`}</td>
          </tr>
        ))}
      </Table>
    </>
  );
}
