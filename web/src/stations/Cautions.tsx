import { useWork } from "../job/WorkContext";
import type { Station } from "../job/stations";

/** The cautions that belong to a station, beside its work. */
export function Cautions({ station }: { station: Station }) {
  const { forecast } = useWork();
  const cautions = forecast?.cautions[station] ?? [];
  if (cautions.length === 0) return null;
  return (
    <ul aria-label="Cautions" className="border-ochre mt-2 space-y-1 border-l-4 pl-3 text-sm">
      {cautions.map((words) => (
        <li key={words}>
          <span className="text-ochre" aria-hidden>
            ▲{" "}
          </span>
          {words}
        </li>
      ))}
    </ul>
  );
}
