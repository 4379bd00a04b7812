import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";

import { api, data, type AmplifierOut } from "../api/client";
import { AskRemove } from "../ui/AskRemove";
import { Button } from "../ui/Button";

interface Props {
  amplifier: AmplifierOut;
  asNew: boolean;
  onSheet: (sheet: number) => void;
}

/** Takes the opened sheet off the bench while there are others, else the amplifier; both come back from the records. */
export function RemoveFromBench({ amplifier, asNew, onSheet }: Props) {
  const navigate = useNavigate();
  const client = useQueryClient();
  const [asking, setAsking] = useState(false);
  const { sheet, sheets } = amplifier;
  const others = sheets.filter((each) => each.id !== sheet?.id);
  const next = others[0];
  const ofSheet = sheet !== null && next !== undefined;
  const remove = useMutation({
    mutationFn: async () => {
      const amplifier_id = amplifier.id;
      if (!ofSheet)
        return data(
          await api.DELETE("/api/v1/amplifiers/{amplifier_id}", { params: { path: { amplifier_id } } }),
        );
      const params = { path: { amplifier_id, sheet_id: sheet.id } };
      return data(await api.DELETE("/api/v1/amplifiers/{amplifier_id}/sheets/{sheet_id}", { params }));
    },
    onSuccess: () => {
      setAsking(false);
      if (ofSheet) onSheet(next.id);
      else void navigate("/bench");
      void client.invalidateQueries({ queryKey: ["amplifier"] });
      void client.invalidateQueries({ queryKey: ["amplifiers"] });
    },
  });
  const name = amplifier.record.name;
  return (
    <>
      <Button disabled={asNew} onClick={() => setAsking(true)}>
        {ofSheet ? "Remove the sheet" : "Remove"}
      </Button>
      <AskRemove
        what={!asking ? null : ofSheet ? `the sheet of ${sheet.measured_on} of ${name}` : name}
        busy={remove.isPending}
        error={remove.error}
        onRemove={() => remove.mutate()}
        onKeep={() => setAsking(false)}
      />
    </>
  );
}
