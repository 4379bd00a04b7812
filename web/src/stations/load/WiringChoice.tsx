import { useId } from "react";

import { useWork } from "../../job/WorkContext";
import { plain, watts } from "../../ui/format";
import { Select } from "../../ui/Select";
import { useLoadOptions } from "./useLoad";

/** How the coils are wired, each way with the ohms and the watts that come of it. */
export function WiringChoice({ index }: { index: number }) {
  const { change } = useWork();
  const id = useId();
  const options = useLoadOptions(index).data?.options ?? [];
  const used = options.find((each) => each.in_use);
  const ways = options.filter((each) => each.connection === used?.connection);
  return (
    <div className="border-rule border-b py-1">
      <label htmlFor={id} className="text-soft block text-sm">
        Wired
      </label>
      <Select
        id={id}
        className="w-full"
        value={used?.words ?? ""}
        onChange={(event) => change(`amplifiers.${index}.load.wiring`, event.target.value)}
      >
        {!used && <option value="">working it out …</option>}
        {ways.map((each) => (
          <option key={each.words} value={each.words}>
            {each.words}: {plain(each.load_ohm)} Ω, {watts(each.delivered_w)} W
          </option>
        ))}
      </Select>
    </div>
  );
}
