import { api, data } from "../api/client";
import { usePages } from "../api/usePages";
import { Button } from "../ui/Button";
import { Complaint } from "../ui/Complaint";
import { Modal } from "../ui/Modal";
import { moment } from "../ui/moments";
import { MoreRows } from "../ui/MoreRows";
import type { Cells } from "./grid/columns";

const AT_ONCE = 20;

export interface EarlierSheet {
  rows: Cells[];
  measuredOn: string;
  note: string;
}

interface Props {
  amplifier: number;
  sheet: number;
  version: number;
  onBack: (earlier: EarlierSheet) => void;
  onClose: () => void;
}

/** Every save of a sheet; what it held under any of them can be taken up again. */
export function SheetRevisions({ amplifier, sheet, version, onBack, onClose }: Props) {
  const saves = usePages(["sheet-revisions", sheet, version], async (offset, signal) => {
    const path = { amplifier_id: amplifier, sheet_id: sheet };
    const params = { path, query: { offset, limit: AT_ONCE } };
    return data(
      await api.GET("/api/v1/amplifiers/{amplifier_id}/sheets/{sheet_id}/revisions", { params, signal }),
    );
  });
  return (
    <Modal title="Earlier states of this sheet" open onClose={onClose} closable>
      <p className="text-soft mt-1">
        Going back is a change like any other: it counts when the sheet is saved.
      </p>
      {saves.error && <Complaint>{saves.error.message}</Complaint>}
      <ol className="mt-3" aria-label="Revisions">
        {saves.rows?.map((each) => (
          <li
            key={each.version}
            className="border-rule flex items-center justify-between gap-4 border-t py-2"
          >
            <span>
              <b>Revision {each.version}</b>{" "}
              <span className="text-soft text-sm">
                {moment(each.saved_at)}
                {each.saved_by && `, ${each.saved_by}`}: {each.cells.length} readings
                {each.note && `, ${each.note}`}
              </span>
            </span>
            {each.version === version ? (
              <span className="text-soft text-sm whitespace-nowrap">as it is stored</span>
            ) : (
              <Button
                aria-label={`Go back to revision ${each.version}`}
                onClick={() => {
                  onBack({ rows: each.cells, measuredOn: each.measured_on, note: each.note });
                  onClose();
                }}
              >
                Go back to it
              </Button>
            )}
          </li>
        ))}
      </ol>
      <MoreRows shown={saves.rows?.length ?? 0} count={saves.count} more={saves.more} />
    </Modal>
  );
}
