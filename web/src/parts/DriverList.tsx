import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, fileForm, type DriverLine, type DriverOut } from "../api/client";
import { usePages } from "../api/usePages";
import { valueOf } from "../api/quantity";
import { useKeys } from "../job/useKeys";
import { Button } from "../ui/Button";
import { fixed, plain } from "../ui/format";
import { ListState } from "../ui/ListState";
import { MoreRows } from "../ui/MoreRows";
import { Table } from "../ui/Table";
import { DriverForm } from "./DriverForm";
import { ListTools } from "./ListTools";

/** The drivers of the workshop, checked against themselves. */
export function DriverList() {
  const client = useQueryClient();
  const list = usePages(["drivers", "pages"], async (offset) =>
    data(await api.GET("/api/v1/parts/drivers", { params: { query: { offset } } })),
  );
  const [opened, setOpened] = useState<number | "new" | null>(null);
  const bring = useMutation({
    mutationFn: async (file: File) => data(await api.POST("/api/v1/parts/drivers/import", fileForm(file))),
    onSuccess: () => void client.invalidateQueries({ queryKey: ["drivers"] }),
  });
  useKeys({ n: () => setOpened("new") });
  const edited = list.rows?.find((each) => each.id === opened)?.opened;
  return (
    <section aria-label="Drivers">
      <ListTools exportAddress="/api/v1/parts/drivers/csv" importLabel="Import drivers" bring={bring}>
        <Button onClick={() => setOpened("new")}>New driver</Button>
      </ListTools>
      {opened === "new" && <DriverForm onDone={() => setOpened(null)} />}
      {edited && <DriverForm key={edited.id} stored={edited} onDone={() => setOpened(null)} />}
      <Table
        label="Drivers"
        head={["Driver", "Size", "Coils", "fs", "Qts", "Vas", "Sd", "Travel", "Rated", "Price", "Checked"]}
      >
        {list.rows?.map((each) =>
          each.opened ? (
            <Row key={each.id} each={each.opened} onOpen={() => setOpened(each.id)} />
          ) : (
            <Unread key={each.id} each={each} />
          ),
        )}
      </Table>
      <MoreRows shown={list.rows?.length ?? 0} count={list.count} more={list.more} />
      <ListState what="drivers" rows={list.rows} error={list.error} onAgain={list.again}>
        <p className="mb-3">No driver yet. Enter one from its data sheet, or import a list in CSV.</p>
        <Button onClick={() => setOpened("new")}>Enter a driver</Button>
      </ListState>
    </section>
  );
}

function Row({ each: { driver, qts, findings }, onOpen }: { each: DriverOut; onOpen: () => void }) {
  const figure = (value: number | null | undefined, unit: string) =>
    value == null ? "–" : `${plain(value)} ${unit}`;
  return (
    <tr className="hover:bg-sheet">
      <td>
        <button
          className="min-h-11 text-left text-lg font-bold underline-offset-4 hover:underline"
          onClick={onOpen}
        >
          {driver.name}
        </button>
      </td>
      <td className="figure">{figure(driver.size_inch, "in")}</td>
      <td className="figure">
        {driver.coils ?? 1} × {figure(driver.coil_ohm, "Ω")}
      </td>
      <td className="figure">{figure(valueOf(driver.fs_hz), "Hz")}</td>
      <td className="figure">{fixed(qts, 2)}</td>
      <td className="figure">{figure(valueOf(driver.vas_l), "l")}</td>
      <td className="figure">{figure(valueOf(driver.sd_cm2), "cm²")}</td>
      <td className="figure">{figure(valueOf(driver.xmax_mm), "mm")}</td>
      <td className="figure">{figure(driver.rated_w, "W")}</td>
      <td className="figure">{driver.price == null ? "–" : plain(driver.price)}</td>
      <td className="whitespace-nowrap">
        {findings.length > 0 ? (
          <span className="text-ochre" title={findings.map((f) => f.text).join("; ")}>
            ▲ {findings.length}
          </span>
        ) : (
          <span className="text-moss">✓</span>
        )}
      </td>
    </tr>
  );
}

/** A driver whose parameters can no longer be read. */
function Unread({ each }: { each: DriverLine }) {
  return (
    <tr>
      <td>{each.name}</td>
      <td colSpan={10} className="text-ochre text-left! text-sm">
        ▲ {each.problem}
      </td>
    </tr>
  );
}
