import { useMutation } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, fileForm } from "../api/client";
import { Button } from "../ui/Button";
import { Complaint } from "../ui/Complaint";
import { FileButton } from "../ui/FileButton";

const ADDRESS = "/api/v1/workshop-settings/logo";

/** The shop's logo on printed sheets; stored at once, apart from the settings. */
export function Logo({ stored }: { stored: boolean }) {
  const [seen, setSeen] = useState(0);
  const [there, setThere] = useState(stored);
  const put = useMutation({
    mutationFn: async (file: File) => data(await api.POST(ADDRESS, fileForm(file))),
    onSuccess: () => {
      setThere(true);
      setSeen(seen + 1);
    },
  });
  const remove = useMutation({
    mutationFn: async () => data(await api.DELETE(ADDRESS)),
    onSuccess: () => setThere(false),
  });
  const problem = put.error ?? remove.error;
  return (
    <div className="mt-3 flex flex-wrap items-center gap-3">
      {there && (
        <img
          alt="The shop's logo"
          className="border-rule max-h-16 border bg-white p-1"
          src={`${ADDRESS}?seen=${seen}`}
        />
      )}
      <FileButton
        label={there ? "Another logo" : "Logo, PNG or JPEG"}
        accept="image/png,image/jpeg"
        quiet
        busy={put.isPending}
        onFile={(file) => put.mutate(file)}
      />
      {there && (
        <Button disabled={remove.isPending} onClick={() => remove.mutate()}>
          Take it away
        </Button>
      )}
      {problem && <Complaint>{problem.message}</Complaint>}
    </div>
  );
}
