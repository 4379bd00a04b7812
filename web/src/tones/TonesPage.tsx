import { useState } from "react";

import { Tabs } from "../ui/Tabs";
import { SetUpView } from "./SetUpView";
import { ToneView } from "./ToneView";

const VIEWS = [
  ["tones", "Test tones"],
  ["set-up", "Set-up sheet"],
] as const;
type View = (typeof VIEWS)[number][0];

/** Tones to play, and the sheet to set an amplifier up with them. */
export function TonesPage() {
  const [view, setView] = useState<View>("tones");
  return (
    <div className="mx-auto max-w-6xl px-8 py-5">
      <h1 className="mb-2 text-2xl font-bold">Tones</h1>
      <Tabs label="Views of the tones" value={view} options={VIEWS} onChange={setView} />
      {view === "tones" ? <ToneView /> : <SetUpView />}
    </div>
  );
}
