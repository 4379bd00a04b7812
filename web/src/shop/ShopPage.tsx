import { useState } from "react";

import type { StockLine, WorkshopSettings } from "../api/client";
import { BroughtBack } from "../drafts/BroughtBack";
import { SaveProblem } from "../drafts/SaveProblem";
import { useKept } from "../drafts/useKept";
import { Button } from "../ui/Button";
import { Choice } from "../ui/Choice";
import { Complaint } from "../ui/Complaint";
import { NumberBox } from "../ui/NumberBox";
import { Logo } from "./Logo";
import { Moves } from "./Moves";
import { Shelf } from "./Shelf";
import { CRITERIA, FUSES, LOADS, PROGRAMMES } from "./schools";
import { ShopNav } from "./ShopNav";
import { readShop, useSaveShop, useStoredShop, type StoredShop } from "./useShop";
import { Input } from "../ui/Input";
import { SelectBox } from "../ui/SelectBox";

const SIZES = [
  ["awg", "AWG"],
  ["mm2", "mm²"],
] as const;
const LENGTHS = [
  ["m", "metres"],
  ["ft", "feet"],
] as const;

const PAPERS = [
  ["a4", "A4"],
  ["letter", "Letter"],
] as const;
const DECIMALS = [
  ["point", "12.5"],
  ["comma", "12,5"],
] as const;
const DATES = [
  ["iso", "2026-11-27"],
  ["dmy", "27.11.2026"],
  ["mdy", "11/27/2026"],
] as const;

/** The workshop's settings: its units, what it cuts, and the cable on its shelf. */
export function ShopPage() {
  const stored = useStoredShop();
  if (stored.error) return <Complaint>{stored.error.message}</Complaint>;
  // Changed before it is there, the shelf would be saved without what is on it.
  return stored.data ? (
    <Settings stored={stored.data} />
  ) : (
    <p className="text-soft p-8">Opening the shop …</p>
  );
}

function Settings({ stored }: { stored: StoredShop }) {
  const save = useSaveShop();
  const kept = useKept("shop", { version: stored.version, document: stored.settings });
  const { value: shop, version, changed } = kept;
  const [moving, setMoving] = useState<number[]>([]);
  const change = (part: Partial<WorkshopSettings>) => kept.set({ ...shop, ...part });
  const keep = () =>
    save.mutate(
      { version, settings: shop, move: moving },
      {
        onSuccess: (answer) => {
          kept.saved(shop, answer.version);
          setMoving([]);
        },
      },
    );
  return (
    <>
      <ShopNav />
      <div className="mx-auto max-w-5xl px-8 py-5 max-md:px-4">
        <div className="mb-4 flex items-center justify-between gap-3">
          <h1 className="text-2xl font-bold">Shop</h1>
          <div className="flex items-center gap-3">
            <span role="status" className="text-soft text-sm">
              {changed ? "not saved yet" : save.isSuccess ? "✓ saved" : ""}
            </span>
            <Button strong disabled={!changed || save.isPending} onClick={keep}>
              Save
            </Button>
          </div>
        </div>
        <BroughtBack at={kept.broughtBack} onThrowAway={kept.throwAway} />
        <SaveProblem
          error={save.error}
          base={kept.base}
          mine={shop}
          read={async () => {
            const { version, settings } = await readShop();
            return { version, document: settings };
          }}
          onSettle={(settled, version) => {
            kept.settle(settled, version);
            save.reset();
          }}
        />
        <section aria-label="Units" className="mb-6">
          <h2 className="mb-2">Units that come first</h2>
          <div className="flex flex-wrap gap-6">
            <Choice
              label="Cable sizes in"
              value={shop.sizes}
              options={SIZES}
              onChange={(sizes) => change({ sizes })}
            />
            <Choice
              label="Lengths in"
              value={shop.lengths}
              options={LENGTHS}
              onChange={(lengths) => change({ lengths })}
            />
          </div>
          <p className="text-soft mt-1 text-sm">The schedule always shows both.</p>
        </section>
        <section aria-label="Cutting" className="mb-6">
          <h2 className="mb-2">Cut longer than the way</h2>
          <div className="flex flex-wrap items-end gap-4">
            <NumberBox
              label="For bends"
              unit="%"
              value={Math.round(shop.cut_share * 1000) / 10}
              onChange={(percent) => change({ cut_share: percent / 100 })}
            />
            <NumberBox
              label="For both ends"
              unit="m"
              value={shop.cut_ends_m}
              onChange={(cut_ends_m) => change({ cut_ends_m })}
            />
            <label className="block">
              <span className="text-soft block text-sm">Currency</span>
              <Input
                className="figure w-20"
                maxLength={3}
                value={shop.currency}
                onChange={(event) => change({ currency: event.target.value.toUpperCase() })}
              />
            </label>
          </div>
        </section>
        <section aria-label="Quotes" className="mb-6">
          <h2 className="mb-2">Quotes</h2>
          <div className="flex flex-wrap items-end gap-4">
            <NumberBox
              label="Tax on top"
              unit="%"
              value={Math.round(shop.tax_share * 1e5) / 1e3}
              onChange={(percent) => change({ tax_share: percent / 100 })}
            />
            <NumberBox
              label="An hour of labour"
              unit={shop.currency}
              value={shop.labour_per_hour ?? 0}
              onChange={(price) => change({ labour_per_hour: price > 0 ? price : null })}
            />
            <NumberBox
              label="Valid for"
              unit="days"
              value={shop.quote_days}
              onChange={(days) => change({ quote_days: Math.round(days) })}
            />
          </div>
        </section>
        <section aria-label="What a job begins with" className="mb-6">
          <h2 className="mb-2">What a job begins with</h2>
          <div className="flex flex-wrap items-end gap-4">
            <NumberBox
              label="Hold at the amplifier"
              unit="V"
              value={shop.terminal_v}
              onChange={(terminal_v) => change({ terminal_v })}
            />
            <NumberBox
              label="Drop allowed on the way"
              unit="V"
              value={shop.drop_v}
              onChange={(drop_v) => change({ drop_v })}
            />
            <SelectBox
              label="Output that counts"
              value={shop.criterion}
              options={CRITERIA}
              onChange={(criterion) => criterion && change({ criterion })}
            />
            <SelectBox
              label="Sized for"
              value={shop.programme}
              options={PROGRAMMES}
              onChange={(programme) => programme && change({ programme })}
            />
          </div>
          <p className="text-soft mt-1 text-sm">
            A job keeps its own; it follows the shop where it has the shop&apos;s.
          </p>
        </section>
        {changed && <Moves shop={shop} moving={moving} onMoving={setMoving} />}
        <section aria-label="Cable and fuse" className="mb-6">
          <h2 className="mb-2">Cable, fuse, watts</h2>
          <div className="flex flex-wrap items-end gap-4">
            <NumberBox
              label="Cable carries more by"
              unit="%"
              value={Math.round(shop.cable_margin * 1000) / 10}
              onChange={(percent) => change({ cable_margin: percent / 100 })}
            />
            <SelectBox
              label="A fuse is for"
              value={shop.fuse}
              options={FUSES}
              onChange={(fuse) => fuse && change({ fuse })}
            />
            <SelectBox
              label="Watts on a job sheet"
              value={shop.load}
              options={LOADS}
              onChange={(load) => load && change({ load })}
            />
          </div>
          <p className="text-soft mt-1 text-sm">
            A fuse always protects the cable; by the other school it is no smaller than the amplifier&apos;s
            own, where the cable allows that.
          </p>
        </section>
        <section aria-label="Paper and writing" className="mb-6">
          <h2 className="mb-2">Paper and writing</h2>
          <div className="flex flex-wrap items-end gap-6">
            <Choice
              label="Paper"
              value={shop.paper}
              options={PAPERS}
              onChange={(paper) => change({ paper })}
            />
            <Choice
              label="Decimal sign"
              value={shop.decimals}
              options={DECIMALS}
              onChange={(decimals) => change({ decimals })}
            />
            <Choice
              label="Dates"
              value={shop.dates}
              options={DATES}
              onChange={(dates) => change({ dates })}
            />
          </div>
          <p className="text-soft mt-1 text-sm">
            Either sign is understood where something is typed. Files keep the point.
          </p>
          <Logo stored={stored.logo ?? false} />
        </section>
        <Shelf shop={shop} onChange={(shelf: StockLine[]) => change({ shelf })} />
      </div>
    </>
  );
}
