import { useSearchParams } from "react-router";

import { Tabs } from "../ui/Tabs";
import { DriverList } from "./DriverList";
import { PriceList } from "./PriceList";

const LISTS = [
  ["drivers", "Drivers"],
  ["prices", "Price list"],
] as const;

/** The workshop's parts: drivers with their parameters, and what plans choose from with its price. */
export function PartsPage() {
  const [query, setQuery] = useSearchParams();
  const list = query.get("list") === "prices" ? "prices" : "drivers";
  return (
    <div className="mx-auto max-w-6xl px-8 py-5">
      <h1 className="mb-2 text-2xl font-bold">Parts</h1>
      <Tabs
        label="Lists of parts"
        value={list}
        options={LISTS}
        onChange={(next) => setQuery(next === "prices" ? { list: next } : {}, { replace: true })}
      />
      {list === "prices" ? <PriceList /> : <DriverList />}
    </div>
  );
}
