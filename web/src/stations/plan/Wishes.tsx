import { useWork } from "../../job/WorkContext";
import { placesOf } from "./placesOf";
import { Select } from "../../ui/Select";
import { RemoveButton } from "../../ui/RemoveButton";

const LISTS = [
  ["pins", "Must be in it"],
  ["keep", "Stays as it is"],
  ["never", "Never use"],
] as const;

/** What every plan has to contain, leave alone, or do without; each can be taken back. */
export function Wishes() {
  const { job, change } = useWork();
  const keep = job.plan.keep ?? [];
  return (
    <>
      {LISTS.map(([key, words]) => {
        const names = job.plan[key] ?? [];
        if (names.length === 0) return null;
        return (
          <ul key={key} aria-label={words} className="mb-2 text-sm">
            {names.map((name) => (
              <li key={name} className="flex items-center justify-between gap-2">
                <span>
                  <span className="text-soft">{words}:</span> {name}
                </span>
                <RemoveButton
                  label={`Take back: ${words}, ${name}`}
                  onClick={() =>
                    change(
                      `plan.${key}`,
                      names.filter((each) => each !== name),
                    )
                  }
                />
              </li>
            ))}
          </ul>
        );
      })}
      <Select
        aria-label="Keep as it is"
        className="mb-3 w-full"
        value=""
        onChange={(event) => change("plan.keep", [...keep, event.target.value])}
      >
        <option value="">Keep as it is …</option>
        {placesOf(job)
          .filter((each) => !keep.includes(each))
          .map((each) => (
            <option key={each}>{each}</option>
          ))}
      </Select>
    </>
  );
}
