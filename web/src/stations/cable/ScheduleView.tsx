import { useMutation } from "@tanstack/react-query";
import { Printer } from "lucide-react";

import { api, data, fileForm, type Job, type Schedule, type ScheduleRow } from "../../api/client";
import { useWork } from "../../job/WorkContext";
import { lengthWords, money, sizeWords } from "../../shop/units";
import { useShop } from "../../shop/useShop";
import { Button } from "../../ui/Button";
import { Complaint } from "../../ui/Complaint";
import { FileButton } from "../../ui/FileButton";
import { fixed } from "../../ui/format";
import { saveFile } from "../../ui/saveFile";
import { LeftHead, Table } from "../../ui/Table";
import { Group } from "../Split";
import { CableDrawing } from "./CableDrawing";
import { useSchedule } from "./useCable";
import { numbered } from "./words";

/** The schedule as it goes to the bench: drawing, cut list, what is needed, what is still open, cautions. */
export function ScheduleView() {
  const { job, change } = useWork();
  const found = useSchedule();
  const save = useMutation({
    mutationFn: async () => {
      const asked = { body: { document: job }, parseAs: "text" } as const;
      return String(data(await api.POST("/api/v1/cable-schedules/csv", asked)));
    },
    onSuccess: (text) => saveFile("cable-schedule.csv", text, "text/csv"),
  });
  const bring = useMutation({
    mutationFn: (file: File) => readSchedule(file, job),
    onSuccess: (job) => change("", job),
  });
  if (found.error) return <Complaint>{found.error.message}</Complaint>;
  if (!found.data) return <p className="text-soft py-6">Writing the schedule …</p>;
  const schedule = found.data;
  return (
    <div data-sheet>
      <div className="mb-3 flex flex-wrap items-center justify-between gap-3">
        <h2 className="text-lg">Cable schedule: {schedule.title}</h2>
        <div className="flex flex-wrap gap-2 print:hidden">
          <Button onClick={() => save.mutate()}>Save as CSV</Button>
          <FileButton
            label="Bring a changed CSV back"
            accept=".csv,text/csv"
            busy={bring.isPending}
            quiet
            onFile={(file) => bring.mutate(file)}
          />
          <Button strong onClick={() => window.print()}>
            <Printer size={16} aria-hidden /> Print
          </Button>
        </div>
      </div>
      {bring.error && <Complaint>{bring.error.message}</Complaint>}
      {bring.isSuccess && (
        <p role="status" className="text-moss mb-2 text-sm">
          ✓ Read; what it states otherwise is in the job now, and can be undone.
        </p>
      )}
      {schedule.rows.length === 0 ? (
        <p className="text-soft">No cable yet: pick an amplifier at station 2.</p>
      ) : (
        <>
          <Open open={schedule.open} />
          <CableDrawing schedule={schedule} />
          <CutList schedule={schedule} />
          <RowCautions rows={schedule.rows} />
          <NeededList schedule={schedule} />
        </>
      )}
    </div>
  );
}

/** A schedule in CSV, read into the job by the server. */
async function readSchedule(file: File, job: Job): Promise<Job> {
  const form = fileForm(file, { document: JSON.stringify(job) });
  return data(await api.POST("/api/v1/cable-schedules/import", form)) as Job;
}

function Open({ open }: { open: string[] }) {
  if (open.length === 0)
    return (
      <p className="text-moss mb-3 text-sm">
        ✓ Nothing is left open: every length, size and fuse is decided.
      </p>
    );
  return (
    <section aria-label="Still open" className="border-ochre mb-3 border-l-4 pl-3">
      <h3 className="font-bold">Still open</h3>
      <ul className="text-sm">
        {open.map((words) => (
          <li key={words}>
            <span className="text-ochre" aria-hidden>
              ▲{" "}
            </span>
            {words}
          </li>
        ))}
      </ul>
    </section>
  );
}

function CutList({ schedule }: { schedule: Schedule }) {
  const shop = useShop();
  const cautions = numbered(schedule.rows);
  return (
    <Group title="Cut list">
      <Table
        label="Cut list"
        head={[
          "Tag",
          <LeftHead key="what">Cable</LeftHead>,
          <LeftHead key="size">Size</LeftHead>,
          "Pieces",
          "Way",
          "Cut each",
          <LeftHead key="ends">Ends</LeftHead>,
          <LeftHead key="fuses">Fuse</LeftHead>,
          "Panels",
          "Weight",
          "Price",
        ]}
      >
        {schedule.rows.map((row) => {
          const about = row.cautions.map((words) => cautions.indexOf(words) + 1).sort((a, b) => a - b);
          const [size, other] = sizeWords(row, shop);
          const [cut, cutOther] = lengthWords(row.cut_m, shop);
          return (
            <tr key={row.tag} className="align-top">
              <td className="figure text-lg">{row.tag}</td>
              <td className="text-left! leading-tight">
                {row.cable}
                <span className="text-soft block text-xs">
                  {row.words} · {row.start} → {row.end}
                </span>
                {about.length > 0 && (
                  <span className="text-ochre block text-xs">
                    <span aria-hidden>▲ </span>
                    {about.length > 1 ? "cautions" : "caution"} {about.join(", ")}
                  </span>
                )}
              </td>
              <td className="text-left! leading-tight whitespace-nowrap">
                {size}
                <span className="text-soft block text-xs">{other}</span>
                {row.conductor !== "copper" && (
                  <span className="text-ochre block text-xs">▲ {row.metal}</span>
                )}
              </td>
              <td className="figure">{row.pieces}</td>
              <td className="figure">
                {lengthWords(row.length_m, shop)[0]}
                {row.length_assumed && (
                  <span className="text-ochre block font-sans text-xs font-normal">○ assumed</span>
                )}
              </td>
              <td className="figure">
                {cut}
                <span className="text-soft block font-sans text-xs font-normal">{cutOther}</span>
              </td>
              <td className="text-left! text-sm whitespace-nowrap">
                {row.terminal_start} · {row.terminal_end}
              </td>
              <td className="text-left! text-sm">
                <FuseLines row={row} />
              </td>
              <td className="figure">
                {row.grommets === 0 ? "–" : row.grommets}
                {row.grommets > 0 && row.grommets_assumed && (
                  <span className="text-ochre block font-sans text-xs font-normal">○ assumed</span>
                )}
              </td>
              <td className="figure">{fixed(row.weight_kg, 1)} kg</td>
              <td className="figure">{row.price === null ? "–" : money(row.price, schedule.currency)}</td>
            </tr>
          );
        })}
      </Table>
      <p className="text-soft mt-1 text-sm">
        Mark both ends of every piece with its tag. P positive, N return, E strap, S speaker lead. Each cut
        has the shop's allowance: {fixed(100 * shop.cut_share, 0)} % for bends and {fixed(shop.cut_ends_m, 1)}{" "}
        m for the ends. Weights are of bare metal. Ring sizes follow the posts and studs at hand.
      </p>
    </Group>
  );
}

/** The fuses of a piece: rating, kind, where, and whether it is decided. */
function FuseLines({ row }: { row: ScheduleRow }) {
  const ends = [
    { fuse: row.fuse_start, place: row.start },
    { fuse: row.fuse_end, place: row.end },
  ].filter(({ fuse }) => fuse !== null);
  if (ends.length === 0) return <span className="text-soft">–</span>;
  return ends.map(({ fuse, place }) => (
    <span key={place} className="block leading-tight">
      {fuse?.rating_a == null ? (
        <span className="text-vermilion">◆ {fuse?.why}</span>
      ) : (
        <>
          <b className="whitespace-nowrap">
            {fuse.rating_a} A {fuse.kind}
          </b>
          {!fuse.fitted && <span className="text-ochre"> ○ advised</span>}
          <span className="text-soft block text-xs">
            {fuse.at_battery ? `within 450 mm of the ${place}` : `at the ${place}`}
          </span>
        </>
      )}
    </span>
  ));
}

function NeededList({ schedule }: { schedule: Schedule }) {
  return (
    <Group title="To have at hand">
      <ul className="columns-2 gap-8 text-sm max-md:columns-1">
        {schedule.needed.map((each) => (
          <li
            key={`${each.what} ${each.detail}`}
            className="border-rule flex justify-between gap-3 border-b py-1"
          >
            <span>
              {each.what} <span className="text-soft">{each.detail}</span>
            </span>
            <span className="figure whitespace-nowrap">
              {each.unit === "m" ? `${fixed(each.count, 1)} m` : `${each.count} ×`}
            </span>
          </li>
        ))}
      </ul>
      <p className="mt-2">
        Together {fixed(schedule.weight_kg, 1)} kg of conductor
        {schedule.price !== null && `, cable for ${money(schedule.price, schedule.currency)}`}
        {schedule.price !== null &&
          schedule.unpriced > 0 &&
          ` and ${schedule.unpriced} pieces without a price`}
        .
      </p>
    </Group>
  );
}

/** The cautions of all rows, each once, in the order of the rows; rows refer to them by number. */
function RowCautions({ rows }: { rows: ScheduleRow[] }) {
  return (
    <section aria-label="Cautions of the schedule" className="border-ochre mb-6 border-l-4 pl-3 text-sm">
      <ol className="space-y-1">
        {numbered(rows).map((words, i) => (
          <li key={words}>
            <span className="text-ochre">
              <span aria-hidden>▲ </span>
              {i + 1}
            </span>{" "}
            {words}
          </li>
        ))}
      </ol>
    </section>
  );
}
