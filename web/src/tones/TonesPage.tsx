import { useView } from "../job/useView";
import { Tabs } from "../ui/Tabs";
import { SetUpView } from "./SetUpView";
import { ToneView } from "./ToneView";

const VIEWS = [
  ["tones", "Test tones"],
  ["set-up", "Set-up sheet"],
] as const;

/** Tones to play, and the sheet to set an amplifier up with them. */
export function TonesPage() {
  const [view, setView] = useView("view", VIEWS, "tones");
  return (
    <div className="mx-auto max-w-6xl px-8 py-5 max-md:px-4">
      <h1 className="mb-2 text-2xl font-bold">Tones</h1>
      <Tabs label="Views of the tones" value={view} options={VIEWS} onChange={setView}>
        {view === "tones" ? <ToneView /> : <SetUpView />}
      </Tabs>
    </div>
  );
}
