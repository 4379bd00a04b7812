import { useMutation } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, type Fault } from "../../api/client";
import { Button } from "../../ui/Button";
import { Complaint } from "../../ui/Complaint";
import { Select } from "../../ui/Select";

interface Props {
  exercise: string;
  faults: readonly { key: Fault; words: string }[];
}

/** What is wrong with the bench: marked with the reason. */
export function ExerciseAnswer({ exercise, faults }: Props) {
  const [fault, setFault] = useState<Fault | "">("");
  const answer = useMutation({
    mutationFn: async (given: Fault) => {
      const params = { path: { key: exercise } };
      return data(
        await api.POST("/api/v1/practice-exercises/{key}/answers", { params, body: { fault: given } }),
      );
    },
  });
  return (
    <form
      className="mt-4"
      onSubmit={(event) => {
        event.preventDefault();
        if (fault) answer.mutate(fault);
      }}
    >
      <label className="font-bold">
        What is wrong?{" "}
        <Select value={fault} onChange={(event) => setFault(event.target.value as Fault)}>
          <option value="">choose …</option>
          {faults.map((each) => (
            <option key={each.key} value={each.key}>
              {each.words}
            </option>
          ))}
        </Select>
      </label>{" "}
      <Button strong type="submit" disabled={fault === "" || answer.isPending}>
        Mark it
      </Button>
      {answer.data && (
        <p role="status" className={`mt-2 max-w-2xl ${answer.data.right ? "text-moss" : "text-vermilion"}`}>
          {answer.data.right ? "✓" : "✕"} {answer.data.words}
        </p>
      )}
      {answer.error && <Complaint>{answer.error.message}</Complaint>}
    </form>
  );
}
