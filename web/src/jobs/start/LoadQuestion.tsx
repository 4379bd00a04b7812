import { useWork } from "../../job/WorkContext";
import { BoxFields } from "../../stations/load/BoxFields";
import { CoilFields } from "../../stations/load/CoilFields";
import { DriverChoice } from "../../stations/load/DriverChoice";
import { WiringChoice } from "../../stations/load/WiringChoice";
import { Question } from "./Question";

/** What the amplifier drives, and the box it is in. */
export function LoadQuestion() {
  const { job } = useWork();
  return (
    <Question number={4} title="Subwoofers and box">
      {job.amplifiers.length === 0 ? (
        <p className="text-soft">
          Asked once there is an amplifier: its outputs decide how coils can be wired.
        </p>
      ) : (
        <>
          <CoilFields index={0} />
          <WiringChoice index={0} />
          <div className="mt-3">
            <DriverChoice index={0} />
            <BoxFields index={0} />
          </div>
        </>
      )}
    </Question>
  );
}
