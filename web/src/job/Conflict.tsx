import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";

import { api, data, type Job } from "../api/client";
import { Button } from "../ui/Button";
import { Complaint } from "../ui/Complaint";
import { Modal } from "../ui/Modal";
import { differences, merged, pathWords, sideOf, valueWords, type Side } from "./saving/conflict";
import type { Saving } from "./saving/saving";
import type { JobStep } from "./useJob";

interface Props {
  open: boolean;
  onClose: () => void;
  saving: Saving<Job>;
  act: (step: JobStep) => void;
}

/** Both of two people's documents, field by field: mine, theirs, or some of each; or mine as a job of its own. */
export function Conflict({ open, onClose, saving, act }: Props) {
  const navigate = useNavigate();
  const [chosen, setChosen] = useState<Record<string, Side>>({});
  const copy = useMutation({
    mutationFn: async () => {
      const document = { ...saving.present, title: `${saving.present.title} (my copy)` };
      return data(await api.POST("/api/v1/jobs", { body: { document } }));
    },
    onSuccess: (made) => {
      act({ do: "happened", event: { what: "settled", present: theirs } });
      void navigate(`/jobs/${made.id}`);
    },
  });
  if (!saving.theirs) return null;
  const theirs = saving.theirs.document;
  const found = differences(saving.stored.document, saving.present, theirs);
  const settle = (present: Job) => {
    act({ do: "happened", event: { what: "settled", present } });
    onClose();
  };
  const take = (side: Side) => setChosen(Object.fromEntries(found.map((each) => [each.path, side])));
  return (
    <Modal title="Saved elsewhere meanwhile" open={open} onClose={onClose} width="max-w-3xl">
      <p className="text-soft mt-1 mb-4">
        Somebody else, or another tab, saved revision {saving.theirs.version} while you were typing. Choose
        what stands; nothing of either is lost before you do.
      </p>
      <div className="overflow-x-auto">
        <table className="w-full min-w-120 text-left">
          <thead>
            <tr className="border-rule border-b">
              <th className="py-2">Field</th>
              <th>Mine</th>
              <th>Theirs</th>
            </tr>
          </thead>
          <tbody>
            {found.map((each) => (
              <tr key={each.path} className="border-rule border-b align-top">
                <th scope="row" className="py-2 pr-3 font-normal">
                  {pathWords(saving.present, each.path)}
                </th>
                {(["mine", "theirs"] as const).map((side) => (
                  <td key={side} className="pr-3">
                    <label className="flex min-h-11 items-center gap-2">
                      <input
                        type="radio"
                        className="size-5"
                        name={each.path}
                        checked={sideOf(each, chosen) === side}
                        onChange={() => setChosen({ ...chosen, [each.path]: side })}
                      />
                      <span className="sr-only">{side}: </span>
                      {valueWords(each[side])}
                    </label>
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <div className="mt-4 flex flex-wrap gap-3">
        <Button strong onClick={() => settle(merged(theirs, found, chosen))}>
          Save what is chosen
        </Button>
        <Button onClick={() => take("mine")}>Choose all mine</Button>
        <Button onClick={() => take("theirs")}>Choose all theirs</Button>
        <Button onClick={() => copy.mutate()} disabled={copy.isPending}>
          Save mine as a copy
        </Button>
        <Button onClick={onClose}>Later</Button>
      </div>
      {copy.error && <Complaint>{copy.error.message}</Complaint>}
    </Modal>
  );
}
