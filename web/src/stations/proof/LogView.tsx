import { useMutation } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, fileForm, type ReadingOut } from "../../api/client";
import { useWork } from "../../job/WorkContext";
import { Button, LINK_BUTTON } from "../../ui/Button";
import { CheckBox } from "../../ui/CheckBox";
import { Complaint } from "../../ui/Complaint";
import { FileButton } from "../../ui/FileButton";
import { Input } from "../../ui/Input";
import { Modal } from "../../ui/Modal";
import { Table } from "../../ui/Table";
import { KINDS, UNITS } from "./kinds";
import { shown } from "./shown";
import { taken } from "./taken";
import type { ReadingsLog } from "./useLog";
import { moment } from "../../ui/moments";

/** Everything that was read, with what was corrected; from and to files; photographs. */
export function LogView({ log }: { log: ReadingsLog }) {
  const { id } = useWork();
  const [old, showOld] = useState(false);
  const [open, setOpen] = useState<ReadingOut | null>(null);
  const bring = useMutation({
    mutationFn: async (file: File) => {
      const params = { path: { job_id: id } };
      return data(await api.POST("/api/v1/jobs/{job_id}/readings/import", { params, ...fileForm(file) }));
    },
    onSuccess: log.refresh,
  });
  const rows = old ? log.rows : log.current;
  return (
    <>
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <FileButton
          quiet
          label="Import readings"
          accept=".csv,text/csv"
          busy={bring.isPending}
          onFile={(file) => bring.mutate(file)}
        />
        <a className={LINK_BUTTON} href={`/api/v1/jobs/${id}/readings/csv`} download>
          Export CSV
        </a>
        {log.rows.length > log.current.length && (
          <CheckBox label="Show what was corrected" checked={old} onChange={showOld} />
        )}
      </div>
      {bring.error && <Complaint>{bring.error.message}</Complaint>}
      {rows.length === 0 ? (
        <p className="py-3">Nothing was read yet. Begin with the test card.</p>
      ) : (
        <Table label="Readings" head={["What", "Read", "State", "By", "Meter", "When", ""]}>
          {rows.map((row) => (
            <Row key={row.id} row={row} onOpen={() => setOpen(row)} />
          ))}
        </Table>
      )}
      {open && <Details key={open.id} row={open} log={log} onClose={() => setOpen(null)} />}
    </>
  );
}

function words(row: ReadingOut): string {
  const { what, from, to, amplifier, side } = row.reading;
  const kind = KINDS.find(([key]) => key === what)?.[1] ?? what;
  const where = amplifier || (to ? `${from} to ${to}` : from);
  return `${kind}, ${where}${side ? `, ${side}` : ""}`;
}

function stateOf(row: ReadingOut): string {
  const { engine = "off", programme = "silent", tone_hz: tone, hold } = row.reading;
  const held = hold === "min" ? ", least" : hold === "max" ? ", most" : "";
  return `${engine}, ${programme.replace("_", " ")}${tone ? ` ${tone} Hz` : ""}${held}`;
}

function Row({ row, onOpen }: { row: ReadingOut; onOpen: () => void }) {
  const { value, excluded, by, meter, meter_range: range, taken_at: at, what } = row.reading;
  return (
    <tr className={row.replaced || excluded ? "text-soft" : ""}>
      <td>
        {words(row)}
        {row.replaced && <span className="text-sm"> (corrected since)</span>}
        {excluded && <span className="text-sm"> (left out)</span>}
        {row.photos.length > 0 && (
          <span className="text-sm">
            , {row.photos.length === 1 ? "a photograph" : `${row.photos.length} photographs`}
          </span>
        )}
      </td>
      <td className={`figure ${row.replaced ? "line-through" : ""}`}>{shown(value, UNITS[what])}</td>
      <td>{stateOf(row)}</td>
      <td>{by || row.created_by}</td>
      <td>{[meter, range ? `${range} ${UNITS[what]}` : ""].filter(Boolean).join(", ") || "–"}</td>
      <td className="whitespace-nowrap">{moment(at ?? row.created_at)}</td>
      <td>
        <Button onClick={onOpen} aria-label={`Open the reading: ${words(row)}`}>
          Open
        </Button>
      </td>
    </tr>
  );
}

interface DetailsProps {
  row: ReadingOut;
  log: ReadingsLog;
  onClose: () => void;
}

/** One reading: corrected by another that stands in its place, left out, photographed. */
function Details({ row, log, onClose }: DetailsProps) {
  const [value, setValue] = useState("");
  const [note, setNote] = useState("");
  const photo = useMutation({
    mutationFn: async (file: File) => {
      const params = { path: { reading_id: row.id } };
      return data(await api.POST("/api/v1/readings/{reading_id}/photos", { params, ...fileForm(file) }));
    },
    onSuccess: log.refresh,
  });
  const stored = log.rows.find((each) => each.id === row.id) ?? row;
  const instead = (changed: { value?: string; excluded?: boolean }) => {
    const {
      value: was,
      excluded,
      by,
      meter,
      meter_range: range,
      taken_at: at,
      note: said,
      ...asked
    } = row.reading;
    delete (asked as { accuracy_percent?: unknown }).accuracy_percent;
    const more = {
      meter: meter ?? "",
      meter_range: range ?? null,
      by: by || log.log.by,
      note: note || (said ?? ""),
      excluded: changed.excluded ?? excluded ?? false,
      taken_at: at ?? row.created_at,
      replaces: row.id,
    };
    log.act({
      did: "take",
      place: null,
      waiting: taken(log.log, asked, changed.value ?? String(was), null, more),
    });
    onClose();
  };
  return (
    <Modal title={words(row)} open onClose={onClose} closable>
      <p className="figure mt-1 text-2xl">{shown(row.reading.value, UNITS[row.reading.what])}</p>
      <p className="text-soft text-sm">
        {stateOf(row)}
        {row.reading.note && `. ${row.reading.note}`}
      </p>
      {!row.replaced && (
        <form
          className="mt-3 flex flex-wrap items-end gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            instead({ value });
          }}
        >
          <label className="text-soft text-sm">
            It should be, {UNITS[row.reading.what]}
            <Input
              className="figure block w-28 text-right"
              value={value}
              onChange={(event) => setValue(event.target.value)}
            />
          </label>
          <label className="text-soft grow text-sm">
            Why
            <Input className="block w-full" value={note} onChange={(event) => setNote(event.target.value)} />
          </label>
          <Button strong type="submit" disabled={value.trim() === ""}>
            Correct it
          </Button>
          <Button onClick={() => instead({ excluded: !row.reading.excluded })}>
            {row.reading.excluded ? "Count it again" : "Leave it out"}
          </Button>
        </form>
      )}
      <p className="text-soft mt-1 text-sm">What was read stays in the log.</p>
      <div className="mt-4 flex flex-wrap gap-3">
        {stored.photos.map((each) => (
          <a key={each.id} href={`/api/v1/photos/${each.id}`} target="_blank" rel="noreferrer">
            <img
              src={`/api/v1/photos/${each.id}`}
              width={each.width}
              height={each.height}
              alt={`Photograph of the reading, ${words(row)}`}
              className="border-rule h-36 w-auto border"
            />
          </a>
        ))}
      </div>
      <div className="mt-2">
        <FileButton
          quiet
          label="Add a photograph"
          accept="image/jpeg,image/png"
          busy={photo.isPending}
          onFile={(file) => photo.mutate(file)}
        />
        {photo.error && <Complaint>{photo.error.message}</Complaint>}
        <p className="text-soft mt-1 text-sm">
          JPEG or PNG; kept without the place and time it was taken at.
        </p>
      </div>
    </Modal>
  );
}
