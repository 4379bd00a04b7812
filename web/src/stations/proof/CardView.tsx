import { useRef, useState } from "react";

import type { CardItem, ReadingOut } from "../../api/client";
import { Complaint } from "../../ui/Complaint";
import { Button } from "../../ui/Button";
import { CheckBox } from "../../ui/CheckBox";
import { Input } from "../../ui/Input";
import { plain } from "../../ui/format";
import { full } from "../../ui/number";
import { FromInstrument } from "./FromInstrument";
import { OtherReading } from "./OtherReading";
import { placeOf } from "./log";
import { band, shown } from "./shown";
import { asTyped, taken } from "./taken";
import { useTestCard } from "./useProof";
import type { ReadingsLog } from "./useLog";

/** The test card: each reading with its place, state, meter and expected band, and room for what is read. */
export function CardView({ log }: { log: ReadingsLog }) {
  const card = useTestCard();
  const list = useRef<HTMLDivElement>(null);
  if (card.error) return <Complaint>{card.error.message}</Complaint>;
  if (!card.data || !log.ready) return <p className="text-soft py-6">Making the card …</p>;
  const { items, trips } = card.data;
  if (items.length === 0)
    return <p className="py-2">Nothing to measure: the job has no source and no amplifier.</p>;
  const stops = [...new Set(items.flatMap((item) => item.stops))];
  const open = stops.filter((stop) => !log.log.confirmed.includes(stop));
  const blocks = inBlocks(items);
  return (
    <div ref={list}>
      <Meters log={log} />
      <Stops stops={stops} log={log} />
      <p className="text-soft mb-2 text-sm">
        {items.length} readings,{" "}
        {trips === 0
          ? "all in one place"
          : `${trips === 1 ? "one way" : `${trips} ways`} between engine bay and cabin`}
        . Type as the meter shows it: 14.2, 350m, 1.2k. Enter goes to the next.
      </p>
      {blocks.map(([place, block], at) => (
        <section key={at} aria-label={place} className="mb-5">
          <h2 className="border-rule border-b pb-1">{place[0]?.toUpperCase() + place.slice(1)}</h2>
          <ul>
            {block.map((item) => (
              <Item
                key={placeOf(item.reading)}
                item={item}
                log={log}
                blocked={item.stops.some((stop) => open.includes(stop))}
                onNext={(field) => focusNext(list.current, field)}
              />
            ))}
          </ul>
        </section>
      ))}
      <OtherReading log={log} />
    </div>
  );
}

/** Readings that follow each other in one place. */
function inBlocks(items: CardItem[]): [string, CardItem[]][] {
  const blocks: [string, CardItem[]][] = [];
  for (const item of items) {
    const last = blocks.at(-1);
    if (last && last[0] === item.place) last[1].push(item);
    else blocks.push([item.place, [item]]);
  }
  return blocks;
}

function focusNext(list: HTMLElement | null, from: HTMLElement) {
  const fields = [...(list?.querySelectorAll<HTMLInputElement>("input[data-reading]:not(:disabled)") ?? [])];
  const next = fields[fields.indexOf(from as HTMLInputElement) + 1];
  if (!next) from.blur();
  next?.focus();
  next?.scrollIntoView({ block: "center", behavior: "smooth" });
}

function Meters({ log }: { log: ReadingsLog }) {
  const { by, volts, clamp, clampRange, instrument } = log.log;
  const fields = [
    ["by", "Read by", by, "w-32"],
    ["volts", "Multimeter", volts, "w-36"],
    ["clamp", "Clamp", clamp, "w-36"],
    ["clampRange", "Its range, A", clampRange, "w-24"],
  ] as const;
  const [reads] = useState(instrument.trim() !== "");
  return (
    <>
      <div className="flex flex-wrap gap-3">
        {fields.map(([key, label, value, width]) => (
          <label key={key} className="text-soft text-sm">
            {label}
            <Input
              className={`block ${width}`}
              inputMode={key === "clampRange" ? "decimal" : undefined}
              value={value}
              onChange={(event) => log.act({ did: "set", part: { [key]: event.target.value } })}
            />
          </label>
        ))}
      </div>
      <details open={reads} className="mb-1">
        <summary className="text-soft min-h-11 cursor-pointer py-3 text-sm">A meter on the network</summary>
        <label className="text-soft text-sm">
          Its VISA address
          <Input
            className="block w-full max-w-md"
            value={instrument}
            onChange={(event) => log.act({ did: "set", part: { instrument: event.target.value } })}
          />
        </label>
      </details>
    </>
  );
}

/** What has to be seen to before a meter is put on; the readings that need it wait. */
function Stops({ stops, log }: { stops: string[]; log: ReadingsLog }) {
  const { confirmed } = log.log;
  if (stops.length === 0) return null;
  return (
    <fieldset className="border-ochre bg-sheet mb-4 border-l-4 px-3 py-2">
      <legend className="sr-only">Before you measure</legend>
      <p className="font-bold">▲ Before you measure: tick what you have seen to</p>
      {stops.map((stop) => (
        <CheckBox
          key={stop}
          label={stop}
          checked={confirmed.includes(stop)}
          onChange={(on) =>
            log.act({
              did: "set",
              part: { confirmed: on ? [...confirmed, stop] : confirmed.filter((one) => one !== stop) },
            })
          }
        />
      ))}
      <p className="text-soft text-sm">
        Estimates assist: the makers&rsquo; instructions, local codes and a licensed technician come first.
      </p>
    </fieldset>
  );
}

interface ItemProps {
  item: CardItem;
  log: ReadingsLog;
  blocked: boolean;
  onNext: (from: HTMLElement) => void;
}

function Item({ item, log, blocked, onNext }: ItemProps) {
  const place = placeOf(item.reading);
  const before = log.current.filter((row) => placeOf(row.reading) === place);
  const waiting = log.log.waiting.filter((one) => one.replaces === null && placeOf(one.asked) === place);
  const text = log.log.typed[place] ?? "";
  // As the meter shows it on the range that is asked for: whoever reads 132 there types 132.
  const unit = inMillivolts(item) ? "mV" : item.unit;
  const take = (field: HTMLElement) => {
    if (text.trim() !== "")
      log.act({
        did: "take",
        place,
        waiting: taken(log.log, item.reading, asTyped(text, unit), item.meter_range),
      });
    onNext(field);
  };
  return (
    <li className="border-rule grid grid-cols-[minmax(0,1fr)_minmax(0,220px)_150px] items-center gap-x-4 border-b py-2 max-md:grid-cols-[minmax(0,1fr)_150px]">
      <div className="min-w-0 max-md:col-span-2">
        <p className="font-bold">{item.words}</p>
        <p className="text-sm">{item.state}.</p>
        <p className="text-soft text-sm">
          {item.probes} {item.meter[0]?.toUpperCase() + item.meter.slice(1)}
          {item.meter_range !== null && `, range ${rangeWords(item.meter_range, item.unit)}`}.
        </p>
      </div>
      <div className="text-sm">
        {item.expected === null ? (
          <p className="text-soft">nothing to expect yet: see Sweeps and heat</p>
        ) : (
          <>
            <p>
              expected <span className="figure text-base">{shown(item.expected, item.unit)}</span>
            </p>
            {item.low !== null && item.high !== null && (
              <p className="text-soft">{band(item.low, item.high, item.unit)}</p>
            )}
          </>
        )}
        {before.map((row) => (
          <Read key={row.id} row={row} item={item} />
        ))}
        {waiting.map((one) => (
          <p key={one.key} className={one.refused ? "text-vermilion" : "text-soft"}>
            {one.refused ? `◆ ${one.value}: ${one.refused}` : `${one.value} …`}
            {one.refused && (
              <button
                className="ml-1 min-h-11 underline underline-offset-4"
                onClick={() => {
                  log.act({ did: "drop", key: one.key });
                  log.act({ did: "type", place, text: one.value });
                }}
              >
                Correct it
              </button>
            )}
          </p>
        ))}
      </div>
      <div>
        <span className="flex items-center gap-1">
          <Input
            aria-label={`${item.words}, ${item.state}, ${unit}`}
            data-reading
            data-field="reading"
            inputMode="text"
            autoComplete="off"
            enterKeyHint="next"
            disabled={blocked}
            placeholder={blocked ? "▲" : ""}
            className="figure h-14! w-28 text-right text-xl disabled:opacity-60"
            value={text}
            onChange={(event) => log.act({ did: "type", place, text: event.target.value })}
            onKeyDown={(event) => {
              if (event.key !== "Enter") return;
              event.preventDefault();
              take(event.currentTarget);
            }}
          />
          <span className="w-7">{unit}</span>
        </span>
        {text.trim() === "" && log.log.instrument.trim() !== "" && !blocked && (
          <FromInstrument
            address={log.log.instrument.trim()}
            item={item}
            onRead={(value) =>
              log.act({ did: "type", place, text: full(unit === "mV" ? 1000 * value : value) })
            }
          />
        )}
        {text.trim() !== "" && (
          <Button
            className="mt-1 w-28"
            onClick={(event) =>
              take(event.currentTarget.parentElement?.querySelector("input") ?? event.currentTarget)
            }
          >
            Take it
          </Button>
        )}
      </div>
    </li>
  );
}

/** Whether a reading is taken on a range of millivolts. */
function inMillivolts({ unit, meter_range }: CardItem): boolean {
  return unit === "V" && meter_range !== null && meter_range < 1;
}

function rangeWords(range: number, unit: string): string {
  return unit === "V" && range < 1 ? `${plain(range * 1000)} mV` : `${plain(range)} ${unit}`;
}

/** What was read here: whether it lies inside what was expected. */
function Read({ row, item }: { row: ReadingOut; item: CardItem }) {
  const { value, excluded } = row.reading;
  const inside = item.low === null || item.high === null ? null : value >= item.low && value <= item.high;
  return (
    <p>
      read <span className="figure text-base font-bold">{shown(value, item.unit)}</span>{" "}
      {excluded ? (
        <span className="text-soft">left out</span>
      ) : inside === null ? null : inside ? (
        <span className="text-moss">✓ inside</span>
      ) : (
        <span className="text-vermilion">◆ outside</span>
      )}
    </p>
  );
}
