import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, data, fileForm, type Archive } from "../api/client";
import { useSession } from "../session/useSession";
import { ShopNav } from "../shop/ShopNav";
import { Button, LINK_BUTTON } from "../ui/Button";
import { Complaint } from "../ui/Complaint";
import { FileButton } from "../ui/FileButton";
import { moment } from "../ui/moments";
import { fixed } from "../ui/format";

const KEY = ["archives"];
const ASK_EVERY_MS = 700;
const isOn = (each: Archive) => each.status === "waiting" || each.status === "running";

/** The whole workshop as one file: out, and in again. */
export function DataPage() {
  const owner = useSession().data?.role === "owner";
  return (
    <>
      <ShopNav />
      <div className="mx-auto max-w-5xl px-8 py-5 max-md:px-4">
        <h1 className="mb-3 text-2xl font-bold">Data</h1>
        {owner ? <Archives /> : <p>The whole workshop&apos;s data is handed out to an owner alone.</p>}
        <section aria-label="Copies" className="mt-8 max-w-2xl">
          <h2 className="mb-1">Daily copies</h2>
          <p>
            The server copies its database every day and keeps a week of days and two months of weeks, in{" "}
            <code className="figure">backups</code> beside the database. Copy them to another machine as well:
            they do not survive the loss of this one. <code className="figure">backup</code> and{" "}
            <code className="figure">restore</code> on the server do it by hand.
          </p>
        </section>
      </div>
    </>
  );
}

function Archives() {
  const client = useQueryClient();
  const list = useQuery({
    queryKey: KEY,
    queryFn: async () => data(await api.GET("/api/v1/workshop-archives")),
    refetchInterval: (query) => (query.state.data?.some(isOn) ? ASK_EVERY_MS : false),
  });
  const again = () => void client.invalidateQueries({ queryKey: KEY });
  const start = useMutation({
    mutationFn: async () => data(await api.POST("/api/v1/workshop-archives")),
    onSuccess: again,
  });
  const bring = useMutation({
    mutationFn: async (file: File) =>
      data(await api.POST("/api/v1/workshop-archives/import", fileForm(file))),
    onSuccess: again,
  });
  const remove = useMutation({
    mutationFn: async (id: number) =>
      data(
        await api.DELETE("/api/v1/workshop-archives/{archive_id}", { params: { path: { archive_id: id } } }),
      ),
    onSuccess: again,
  });
  const problem = list.error ?? start.error ?? bring.error ?? remove.error;
  return (
    <section aria-label="Archive">
      <h2 className="mb-1">Everything in one ZIP</h2>
      <p className="max-w-2xl">
        Jobs with every revision, readings and photographs, the bench, parts, prices, settings: in the
        program&apos;s own open formats, with tables for other programs beside them. People, passwords and
        customers&apos; links are not in it. Keep it where only you can read it.
      </p>
      <div className="mt-3 flex flex-wrap gap-2">
        <Button strong disabled={start.isPending} onClick={() => start.mutate()}>
          Make an archive
        </Button>
        <FileButton
          label="Read an archive in"
          accept=".zip"
          quiet
          busy={bring.isPending}
          onFile={(file) => bring.mutate(file)}
        />
      </div>
      <p className="text-soft mt-1 text-sm">An archive is read into a workshop that holds nothing yet.</p>
      {problem && <Complaint>{problem.message}</Complaint>}
      <ul className="mt-3">
        {list.data?.map((each) => (
          <li key={each.id} className="border-rule flex flex-wrap items-center gap-3 border-b py-1">
            <span className="min-w-0 flex-1">
              {each.way === "out" ? "Archive" : "File read in"} of {moment(each.created_at)}
              <span className="text-soft block text-sm">{told(each)}</span>
            </span>
            {isOn(each) && (
              <progress aria-label="How far it is" max={Math.max(each.of, 1)} value={each.done} />
            )}
            {each.way === "out" && each.status === "done" && (
              <a className={LINK_BUTTON} href={`/api/v1/workshop-archives/${each.id}/file`} download>
                Save the ZIP
              </a>
            )}
            {!isOn(each) && <Button onClick={() => remove.mutate(each.id)}>Throw away</Button>}
          </li>
        ))}
      </ul>
    </section>
  );
}

function told(each: Archive): string {
  if (each.status === "waiting") return "waits for its turn";
  if (each.status === "running") return `${each.done} of ${each.of} jobs`;
  if (each.status !== "done") return each.told;
  return each.told || `${fixed(each.size / 1e6, 1)} MB; kept for a day`;
}
