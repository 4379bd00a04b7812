import type { SpeakerLead } from "../../api/client";
import { QuantityField } from "../../job/QuantityField";
import { SelectField } from "../../job/SelectField";
import { TextField } from "../../job/TextField";
import { useWork } from "../../job/WorkContext";
import { lengthField, sizeWords } from "../../shop/units";
import { useShop } from "../../shop/useShop";
import { Button } from "../../ui/Button";
import { fixed, watts } from "../../ui/format";
import { LeftHead, Table } from "../../ui/Table";
import { Group } from "../Split";
import { useCablePlan } from "./useCable";
import { CONDUCTORS } from "./words";

/** What is given of the speaker leads. */
export function SpeakerLeadFields() {
  const { job, change } = useWork();
  const length = lengthField(useShop());
  return (
    <>
      {(job.amplifiers ?? []).map((amplifier, i) => {
        const at = `amplifiers.${i}.speaker_lead` as const;
        if (!amplifier.speaker_lead)
          return (
            <Group key={amplifier.id} title={`Lead of ${amplifier.name}`}>
              <Button
                wide
                onClick={() => change(at, { size: "12 AWG", length_m: { value: 1.5, origin: "assumed" } })}
              >
                Add its speaker lead
              </Button>
            </Group>
          );
        return (
          <Group key={amplifier.id} title={`Lead of ${amplifier.name}`}>
            <TextField path={`${at}.size`} label="Size" hint="such as 12 AWG or 4 mm²" />
            <QuantityField path={`${at}.length_m`} label="Length" {...length} />
            <SelectField path={`${at}.conductor`} label="Conductor" options={CONDUCTORS} />
            <QuantityField path={`${at}.joints_ohm`} label="Plugs and joints" unit="mΩ" per={1000} />
            <QuantityField
              path={`amplifiers.${i}.damping_factor`}
              label="Its damping factor"
              empty="unknown"
            />
          </Group>
        );
      })}
      <QuantityField path="targets.speaker_loss" label="Loss allowed" unit="%" per={100} />
    </>
  );
}

/** What the speaker leads take from the drivers, and the sizes that would do. */
export function SpeakerLeadsView() {
  const plan = useCablePlan();
  const leads = plan.data?.speaker_leads ?? [];
  if (leads.length === 0) return <p className="text-soft">No amplifier at work yet.</p>;
  return leads.map((lead) => <Lead key={lead.field} lead={lead} />);
}

const AROUND = 2;

function Lead({ lead }: { lead: SpeakerLead }) {
  const { change } = useWork();
  const shop = useShop();
  const kind = (size: string) => size.endsWith("AWG") === (shop.sizes === "awg");
  const choices = lead.choices.filter((choice) => kind(choice.size));
  const first = choices.findIndex((choice) => choice.passes);
  const laid = choices.findIndex((choice) => choice.size === lead.now?.size);
  const marks = [first, laid].filter((at) => at >= 0);
  const from = Math.max(0, Math.min(...marks, choices.length) - AROUND);
  const shown = choices.slice(from, Math.max(...marks, from) + AROUND + 1);
  const runs = lead.count > 1 ? `${lead.count} leads, each` : "One lead";
  return (
    <Group title={lead.amplifier}>
      <p className="text-soft mb-1 text-sm">
        {runs} carries {fixed(lead.rms_a, 1)} A RMS.
        {lead.now &&
          ` As laid, ${watts(lead.lost_w)} W stay in ${lead.count > 1 ? "them" : "it"} at the loudest moment.`}
      </p>
      <Table
        label={`Speaker lead of ${lead.amplifier}`}
        head={[
          "Size",
          "Both conductors",
          "Lost",
          "Of the output",
          "Level",
          "Damping",
          "May carry",
          <LeftHead key="p">Passes</LeftHead>,
          "",
        ]}
      >
        {shown.map((choice) => {
          const isLaid = choice.size === lead.now?.size;
          const row = isLaid && lead.now ? lead.now : choice;
          const [size, other] = sizeWords(row, shop);
          return (
            <tr key={choice.size} className={isLaid ? "bg-sunk" : ""}>
              <td className="pl-2! leading-tight whitespace-nowrap">
                {size}
                <span className="text-soft block text-xs">{other}</span>
              </td>
              <td className="figure">{fixed(row.ohm * 1000, 1)} mΩ</td>
              <td className="figure text-vermilion">{watts(row.lost_w)} W</td>
              <td className="figure">{fixed(row.share * 100, 1)} %</td>
              <td className="figure">{fixed(row.db, 2)} dB</td>
              <td className="figure">
                {row.damping == null ? `≤ ${fixed(row.lead_damping, 0)}` : fixed(row.damping, 0)}
              </td>
              <td className="figure">{fixed(row.ampacity_a, 0)} A</td>
              <td
                className={`text-left! text-sm whitespace-nowrap ${row.passes ? "text-moss" : "text-soft"}`}
              >
                {row.passes ? "✓ passes" : row.why[0]}
              </td>
              <td>
                {isLaid ? (
                  <span className="text-soft text-sm">as laid</span>
                ) : (
                  <button
                    className="hover:bg-sheet border-rule min-h-11 rounded-sm border px-3"
                    aria-label={`Use ${size} for ${lead.amplifier}`}
                    onClick={() =>
                      change(`${lead.field as `amplifiers.${number}.speaker_lead`}.size`, choice.size)
                    }
                  >
                    Use
                  </button>
                )}
              </td>
            </tr>
          );
        })}
      </Table>
      <p className="text-soft mt-1 text-sm">
        Damping: nominal load over the ohms that drive it. Where the amplifier's own figure is unknown, the
        lead alone sets the most there can be.
      </p>
    </Group>
  );
}
