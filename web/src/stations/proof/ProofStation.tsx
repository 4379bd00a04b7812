import { useView } from "../../job/useView";
import { useWork } from "../../job/WorkContext";
import { Complaint } from "../../ui/Complaint";
import { Tabs } from "../../ui/Tabs";
import { HistoryView } from "./HistoryView";
import { LogView } from "./LogView";
import { MoreView } from "./MoreView";
import { CardView } from "./CardView";
import { useLog, type ReadingsLog } from "./useLog";
import { VerdictView } from "./VerdictView";

const VIEWS = [
  ["card", "Test card"],
  ["verdict", "Verdict"],
  ["log", "Log"],
  ["history", "Over the years"],
  ["more", "Sweeps and heat"],
] as const;
type View = (typeof VIEWS)[number][0];

/** The finished car: what to measure, what was read, what it says of the model, and what became of it since. */
export function ProofStation() {
  const { id } = useWork();
  const log = useLog(id);
  const [view, setView] = useView("view", VIEWS, "card");
  return (
    <div className="px-5 py-4">
      <Tabs label="Views of the proof" value={view} options={VIEWS} onChange={setView}>
        <Sending log={log} />
        {log.error && <Complaint>{log.error.message}</Complaint>}
        <Chosen view={view} log={log} />
      </Tabs>
    </div>
  );
}

function Chosen({ view, log }: { view: View; log: ReadingsLog }) {
  if (view === "verdict") return <VerdictView log={log} />;
  if (view === "log") return <LogView log={log} />;
  if (view === "history") return <HistoryView />;
  if (view === "more") return <MoreView />;
  return <CardView log={log} />;
}

/** Readings that the server does not have yet, in words. */
function Sending({ log }: { log: ReadingsLog }) {
  const waiting = log.log.waiting.filter((one) => one.refused === "").length;
  if (waiting === 0) return null;
  const many = waiting === 1 ? "One reading is" : `${waiting} readings are`;
  return (
    <p role="status" className={`mb-3 text-sm ${log.offline ? "text-vermilion" : "text-soft"}`}>
      {log.offline
        ? `▲ ${many} kept in this browser: nobody answers. It is tried again.`
        : `${many} on the way …`}
    </p>
  );
}
