import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";

import { api, data, fileForm, isRefusal } from "../api/client";
import { Button } from "../ui/Button";
import { Complaint } from "../ui/Complaint";
import { FileButton } from "../ui/FileButton";
import { Input } from "../ui/Input";
import { Modal } from "../ui/Modal";

/** Brings a bench sheet in; one that does not say which amplifier it is of is asked, not called by its file's name. */
export function ImportSheet({ quiet = false }: { quiet?: boolean }) {
  const navigate = useNavigate();
  const client = useQueryClient();
  const [nameless, setNameless] = useState<File | null>(null);
  const [name, setName] = useState("");
  const bring = useMutation({
    mutationFn: async ({ file, name }: { file: File; name: string }) =>
      data(await api.POST("/api/v1/amplifiers/import", fileForm(file, { name }))),
    onSuccess: (amplifier) => {
      setNameless(null);
      void client.invalidateQueries({ queryKey: ["amplifiers"] });
      void navigate(`/bench/${amplifier.id}/curves`);
    },
    onError: (error, { file }) => {
      if (isRefusal(error) && error.field === "amplifier") setNameless(file);
    },
  });
  const asks = nameless !== null;
  return (
    <>
      <FileButton
        quiet={quiet}
        label="Import a bench sheet"
        accept=".csv,text/csv"
        busy={bring.isPending}
        onFile={(file) => bring.mutate({ file, name: "" })}
      />
      {bring.error && !asks && (
        <div className="basis-full">
          <Complaint>{bring.error.message}</Complaint>
        </div>
      )}
      {asks && (
        <Modal title="Which amplifier is it?" open onClose={() => setNameless(null)} width="max-w-md">
          <form
            className="mt-2"
            onSubmit={(event) => {
              event.preventDefault();
              bring.mutate({ file: nameless, name: name.trim() });
            }}
          >
            <p className="text-soft mb-3">{nameless.name} does not say which amplifier was measured.</p>
            <label>
              Its name
              <Input
                autoFocus
                className="mt-1 block w-full"
                value={name}
                onChange={(event) => setName(event.target.value)}
              />
            </label>
            {bring.error && isRefusal(bring.error) && bring.error.field !== "amplifier" && (
              <Complaint>{bring.error.message}</Complaint>
            )}
            <div className="mt-4 flex gap-2">
              <Button strong type="submit" disabled={!name.trim() || bring.isPending}>
                Import it
              </Button>
              <Button onClick={() => setNameless(null)}>Not now</Button>
            </div>
          </form>
        </Modal>
      )}
    </>
  );
}
