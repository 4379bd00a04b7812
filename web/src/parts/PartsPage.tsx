import { useView } from "../job/useView";
import { Tabs } from "../ui/Tabs";
import { DriverList } from "./DriverList";
import { PriceList } from "./PriceList";

const LISTS = [
  ["drivers", "Drivers"],
  ["prices", "Price list"],
] as const;

/** The workshop's parts: drivers with their parameters, and what plans choose from with its price. */
export function PartsPage() {
  const [list, setList] = useView("list", LISTS, "drivers");
  return (
    <div className="mx-auto max-w-6xl px-8 py-5 max-md:px-4">
      <h1 className="mb-2 text-2xl font-bold">Parts</h1>
      <Tabs label="Lists of parts" value={list} options={LISTS} onChange={setList}>
        {list === "prices" ? <PriceList /> : <DriverList />}
      </Tabs>
    </div>
  );
}
