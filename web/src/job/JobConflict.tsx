import { useMutation } from "@tanstack/react-query";
import { useNavigate } from "react-router";

import { api, data, type Job } from "../api/client";
import { Conflict } from "../drafts/Conflict";
import { Button } from "../ui/Button";
import { Complaint } from "../ui/Complaint";
import type { Saving } from "./saving/saving";
import type { JobStep } from "./useJob";

interface Props {
  onClose: () => void;
  saving: Saving<Job>;
  theirs: Job;
  act: (step: JobStep) => void;
}

/** A job that somebody else saved meanwhile: both side by side, or mine as a job of its own. */
export function JobConflict({ onClose, saving, theirs, act }: Props) {
  const navigate = useNavigate();
  const settle = (present: Job) => act({ do: "happened", event: { what: "settled", present } });
  const copy = useMutation({
    mutationFn: async () => {
      const document = { ...saving.present, title: `${saving.present.title} (my copy)` };
      return data(await api.POST("/api/v1/jobs", { body: { document } }));
    },
    onSuccess: (made) => {
      settle(theirs);
      void navigate(`/jobs/${made.id}`);
    },
  });
  return (
    <Conflict
      onClose={onClose}
      base={saving.stored.document}
      mine={saving.present}
      theirs={theirs}
      onSettle={(present) => {
        settle(present);
        onClose();
      }}
    >
      <Button onClick={() => copy.mutate()} disabled={copy.isPending}>
        Save mine as a copy
      </Button>
      {copy.error && <Complaint>{copy.error.message}</Complaint>}
    </Conflict>
  );
}
