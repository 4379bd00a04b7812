import { useMutation, useQuery } from "@tanstack/react-query";

import { api, data, type PlanResult } from "../../api/client";
import { identity } from "../../api/identity";
import { useWork } from "../../job/WorkContext";
import { Button } from "../../ui/Button";
import { Complaint } from "../../ui/Complaint";
import { fixed, plain } from "../../ui/format";
import { saveFile } from "../../ui/saveFile";
import { Table } from "../../ui/Table";

/** What a plan costs as it is offered: lines, hours, tax by the workshop's setting, and until when it holds. */
export function QuotePanel({ plan }: { plan: PlanResult }) {
  const { job } = useWork();
  const body = { document: job, steps: plan.steps };
  const quote = useQuery({
    queryKey: ["quote", identity(job), plan.steps],
    queryFn: async ({ signal }) => data(await api.POST("/api/v1/plan-quotes", { body, signal })),
    placeholderData: (before) => before,
    retry: false,
  });
  const save = useMutation({
    mutationFn: async () => {
      const answer = await api.POST("/api/v1/plan-quotes/csv", { body, parseAs: "text" });
      saveFile("quote.csv", String(answer.data ?? ""), "text/csv");
    },
  });
  if (quote.error) return <Complaint>{quote.error.message}</Complaint>;
  const told = quote.data;
  if (!told) return <p className="text-soft">Working out the price …</p>;
  return (
    <>
      <Table label="Quote" head={["Part", "Amount", "Price", told.currency]}>
        {told.lines.map((each) => (
          <tr key={each.name}>
            <td>{each.name}</td>
            <td className="figure">{`${plain(each.amount)} ${each.unit}`.trim()}</td>
            <td className="figure">{fixed(each.price, 2)}</td>
            <td className="figure">{fixed(each.cost, 2)}</td>
          </tr>
        ))}
        <tr>
          <td colSpan={3}>Net</td>
          <td className="figure">{fixed(told.net, 2)}</td>
        </tr>
        <tr>
          <td colSpan={3}>Tax, {plain(100 * told.tax_share)} %</td>
          <td className="figure">{fixed(told.tax, 2)}</td>
        </tr>
        <tr className="font-bold">
          <td colSpan={3}>Total, valid until {told.until}</td>
          <td className="figure">{fixed(told.total, 2)}</td>
        </tr>
      </Table>
      <div className="mt-2">
        <Button onClick={() => save.mutate()}>Save as CSV</Button>
      </div>
    </>
  );
}
