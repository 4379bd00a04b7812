import { money } from "../shop/units";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link, useParams } from "react-router";

import { api, data } from "../api/client";
import { useShop } from "../shop/useShop";
import { Button, LINK_BUTTON } from "../ui/Button";
import { CheckBox } from "../ui/CheckBox";
import { Complaint } from "../ui/Complaint";
import { Input } from "../ui/Input";
import { day } from "../ui/moments";
import { NumberBox } from "../ui/NumberBox";
import { Select } from "../ui/Select";
import { PAGES, sheetAddress, type ChosenPlan, type Page } from "./pages";

/** A job on paper: the pages that are chosen, to print or as PDF, and a link for the customer. */
export function SheetPage() {
  const id = Number(useParams().id);
  const [pages, setPages] = useState<readonly Page[]>(["customer"]);
  const [chosen, setChosen] = useState("");
  const { currency } = useShop();
  const frame = useRef<HTMLIFrameElement>(null);
  const job = useQuery({
    queryKey: ["job-title", id],
    queryFn: async () => data(await api.GET("/api/v1/jobs/{job_id}", { params: { path: { job_id: id } } })),
    staleTime: 0,
  });
  const plans = useQuery({
    queryKey: ["plan", id, "latest"],
    queryFn: async () =>
      data(await api.GET("/api/v1/plans", { params: { query: { job: id, limit: 1 } } })).items[0] ?? null,
  });
  const title = (job.data?.document as { title?: string } | undefined)?.title ?? "";
  useEffect(() => {
    document.title = `Job sheet · ${title} · Under Hood`;
  }, [title]);
  const plan = { plan: chosen ? (plans.data?.id ?? null) : null, name: chosen };
  const address = sheetAddress(id, pages, plan);
  const none = pages.length === 0;
  return (
    <div className="mx-auto max-w-6xl px-8 py-5 max-md:px-4">
      <div className="mb-3 flex flex-wrap items-center justify-between gap-3">
        <div>
          <h1 className="text-2xl font-bold">Job sheet</h1>
          <Link className="text-teal inline-block min-h-11 underline underline-offset-4" to={`/jobs/${id}`}>
            {title || "the job"}
          </Link>
          {job.data && <span className="text-soft ml-2 text-sm">revision {job.data.version}</span>}
        </div>
        <div className="flex flex-wrap gap-2">
          <Button disabled={none} onClick={() => frame.current?.contentWindow?.print()}>
            Print
          </Button>
          {none ? null : (
            <a className={LINK_BUTTON} href={address.pdf} download>
              Save as PDF
            </a>
          )}
        </div>
      </div>
      {job.error && <Complaint>{job.error.message}</Complaint>}
      <div className="grid grid-cols-[15rem_minmax(0,1fr)] gap-6 max-md:grid-cols-1">
        <div>
          <fieldset>
            <legend className="font-bold">Pages</legend>
            {PAGES.map(([key, words]) => (
              <CheckBox
                key={key}
                label={words}
                checked={pages.includes(key)}
                onChange={(on) =>
                  setPages(
                    PAGES.map(([each]) => each).filter((each) => (each === key ? on : pages.includes(each))),
                  )
                }
              />
            ))}
          </fieldset>
          <label className="text-soft mt-3 block text-sm">
            What it costs: the plan
            <Select className="mt-1 block w-full" value={chosen} onChange={(e) => setChosen(e.target.value)}>
              <option value="">without a price</option>
              {plans.data?.answer?.plans
                .filter((each) => each.steps.length > 0)
                .map((each) => (
                  <option key={each.name} value={each.name}>
                    {each.name}, {money(each.cost, currency)}
                  </option>
                ))}
            </Select>
          </label>
          <CustomersLinks id={id} plan={plan} />
        </div>
        {none ? (
          <p className="text-soft">Choose a page.</p>
        ) : (
          <iframe
            ref={frame}
            title="The job sheet as it is printed"
            src={address.html}
            className="border-rule h-[75vh] w-full border bg-white"
          />
        )}
      </div>
    </div>
  );
}

/** Links by which the customer reads their page, and nothing else. */
function CustomersLinks({ id, plan }: { id: number; plan: ChosenPlan }) {
  const client = useQueryClient();
  const key = ["links", id];
  const params = { path: { job_id: id } };
  const [days, setDays] = useState(30);
  const links = useQuery({
    queryKey: key,
    queryFn: async () => data(await api.GET("/api/v1/jobs/{job_id}/links", { params })),
  });
  const again = () => void client.invalidateQueries({ queryKey: key });
  const make = useMutation({
    mutationFn: async () =>
      data(await api.POST("/api/v1/jobs/{job_id}/links", { params, body: { days, ...plan } })),
    onSuccess: again,
  });
  const revoke = useMutation({
    mutationFn: async (link: number) =>
      data(await api.DELETE("/api/v1/links/{link_id}", { params: { path: { link_id: link } } })),
    onSuccess: again,
  });
  const problem = links.error ?? make.error ?? revoke.error;
  return (
    <section aria-label="Customer's link" className="mt-5">
      <h2 className="mb-1">Link for the customer</h2>
      <p className="text-soft text-sm">Whoever has it reads the customer&apos;s page, and nothing else.</p>
      <div className="mt-2 flex flex-wrap items-end gap-2">
        <NumberBox
          label="Opens for"
          unit="days"
          width="w-20"
          value={days}
          onChange={(n) => setDays(Math.round(n))}
        />
        <Button disabled={make.isPending} onClick={() => make.mutate()}>
          Make a link
        </Button>
      </div>
      {problem && <Complaint>{problem.message}</Complaint>}
      {make.data && (
        <label className="border-copper text-soft mt-2 block border-l-4 pl-3 text-sm">
          Shown this once:
          <Input
            readOnly
            className="figure mt-1 block w-full"
            value={`${window.location.origin}/sheet/${make.data.secret}`}
            onFocus={(event) => event.target.select()}
          />
        </label>
      )}
      <ul className="mt-2 text-sm">
        {links.data?.map((each) => (
          <li key={each.id} className="border-rule flex items-center justify-between gap-2 border-b py-1">
            <span>
              until {day(each.expires_at)}, opened {each.opened} ×
            </span>
            <Button disabled={revoke.isPending} onClick={() => revoke.mutate(each.id)}>
              Take back
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}
