import { useState, type ReactNode } from "react";

import { useWork } from "../job/WorkContext";

/**
 * A station's answers, shown once all of them have come for the first time: what came later would push down what
 * somebody reads already.
 *
 * settled   whether what is asked besides the forecast was answered, if only by a refusal
 */
export function AtOnce({ settled = true, children }: { settled?: boolean; children: ReactNode }) {
  const { forecast } = useWork();
  const known = forecast !== null && settled;
  const [shown, setShown] = useState(known);
  if (known && !shown) setShown(true);
  return (
    <>
      {/* As high as a page, so that what stands below is not pushed either. */}
      {!shown && <p className="text-soft min-h-screen">Working it out …</p>}
      <div hidden={!shown}>{children}</div>
    </>
  );
}
