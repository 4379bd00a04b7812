import { useRef, useState } from "react";

import { type RecordingOut } from "../../api/client";
import { useWork } from "../../job/WorkContext";
import { Button } from "../../ui/Button";
import { Complaint } from "../../ui/Complaint";
import { FileButton } from "../../ui/FileButton";
import { fixed, plain } from "../../ui/format";
import { withoutRecording } from "../plan/goalFields";
import { uploadWithProgress } from "./uploadWithProgress";

/** A recording of one's own as the programme: sent and heard in octave bands once, kept by the workshop for its jobs. */
export function Recording() {
  const { job, change } = useWork();
  const [sent, setSent] = useState<number | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const [heard, setHeard] = useState<RecordingOut | null>(null);
  const abort = useRef<AbortController | null>(null);
  const file = job.basis.programme_file;
  const bring = async (chosen: File) => {
    abort.current = new AbortController();
    setProblem(null);
    setSent(0);
    try {
      const answer = await uploadWithProgress<RecordingOut>(
        "/api/v1/recordings",
        chosen,
        setSent,
        abort.current.signal,
      );
      setHeard(answer);
      change("basis", { ...job.basis, programme: "file", programme_file: answer.programme_file });
    } catch (error) {
      if (!abort.current.signal.aborted) setProblem(error instanceof Error ? error.message : String(error));
    }
    setSent(null);
  };
  const remove = () => {
    const programme = job.basis.programme === "file" ? "tone" : job.basis.programme;
    change("goals", withoutRecording(job.goals ?? []));
    change("basis", { ...job.basis, programme, programme_file: null });
  };
  return (
    <div>
      {sent === null ? (
        <div className="flex flex-wrap gap-2">
          <FileButton
            quiet
            label={file ? "Another recording" : "Play a recording of yours"}
            accept=".wav,.flac,audio/wav,audio/flac"
            busy={false}
            onFile={(chosen) => void bring(chosen)}
          />
          {file && <Button onClick={remove}>Remove it</Button>}
        </div>
      ) : (
        <div>
          <progress
            className="w-full"
            max={1}
            value={sent < 1 ? sent : undefined}
            aria-label="Reading the recording"
          />
          <p className="text-soft text-sm">{sent < 1 ? `${fixed(sent * 100, 0)} % sent` : "listening …"}</p>
          <Button onClick={() => abort.current?.abort()}>Cancel</Button>
        </div>
      )}
      {problem && <Complaint>{problem}</Complaint>}
      {file && (
        <p className="text-soft mt-1 text-sm">
          {file.name}
          {heard && heard.programme_file.sha256 === file.sha256
            ? `: ${plain(Math.round(heard.seconds))} s, crest ${fixed(heard.crest_db, 1)} dB.`
            : ", as it was heard once."}
        </p>
      )}
      <p className="text-soft mt-1 text-xs">
        WAV or FLAC, mono or stereo, up to 20 minutes and 100 MB. Each amplifier plays of it what lies between
        its filters.
      </p>
    </div>
  );
}
