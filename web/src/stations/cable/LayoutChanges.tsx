import { Button } from "../../ui/Button";
import { Complaint } from "../../ui/Complaint";
import { Group } from "../Split";
import { useLayout } from "./useCable";

/** What can be put into the path: each change leaves a job that can be forecast, and can be undone. */
export function LayoutChanges() {
  const { offers, make } = useLayout();
  const additions = offers.filter((offer) => !offer.key.startsWith("without:"));
  if (additions.length === 0) return null;
  return (
    <Group title="Put into the path">
      {make.error && <Complaint>{make.error.message}</Complaint>}
      <ul className="grid grid-cols-2 gap-x-6 max-lg:grid-cols-1">
        {additions.map((offer) => (
          <li key={offer.key} className="border-rule flex items-center justify-between gap-3 border-b py-1">
            <span className="leading-tight">
              {offer.words}
              <span className="text-soft block text-xs">{offer.does}</span>
            </span>
            <Button
              disabled={make.isPending}
              aria-label={`Add: ${offer.words}`}
              onClick={() => make.mutate(offer.key)}
            >
              Add
            </Button>
          </li>
        ))}
      </ul>
    </Group>
  );
}
