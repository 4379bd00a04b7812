import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from "@headlessui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { useNavigate } from "react-router";

import { api, data, type Found } from "../api/client";
import { Complaint } from "../ui/Complaint";
import { Modal } from "../ui/Modal";

/** Where something that was found is opened. */
export function addressOf(found: Found): string {
  switch (found.kind) {
    case "job":
      return `/jobs/${found.id}`;
    case "amplifier":
      return `/bench/${found.id}`;
    case "reading":
      return `/jobs/${found.job}/proof`;
    default:
      return "/parts";
  }
}

/** One box over jobs, amplifiers, drivers, parts and readings; before a word is typed, what was changed last. */
export function FindBox({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Modal title="Find" open={open} onClose={onClose} closable>
      {open && <Find onClose={onClose} />}
    </Modal>
  );
}

function Find({ onClose }: { onClose: () => void }) {
  const navigate = useNavigate();
  const [typed, setTyped] = useState("");
  const search = useDeferredValue(typed.trim());
  const found = useQuery({
    queryKey: ["find", search],
    queryFn: async ({ signal }) =>
      data(await api.GET("/api/v1/find", { params: { query: { search } }, signal })),
    placeholderData: keepPreviousData,
    staleTime: 0,
  });
  const items = found.data?.items ?? [];
  return (
    <Combobox
      immediate
      onChange={(picked: Found | null) => {
        if (!picked) return;
        onClose();
        void navigate(addressOf(picked));
      }}
    >
      <ComboboxInput
        autoFocus
        aria-label="Find a job, amplifier, driver, part or reading"
        placeholder="title, customer, plate, tag, amplifier, part, note …"
        className="border-rule bg-sheet text-ink mt-3 h-11 w-full rounded-sm border px-2"
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
      />
      {found.error && <Complaint>{found.error.message}</Complaint>}
      <p role="status" className="text-soft mt-2 text-sm">
        {found.data?.recent
          ? items.length > 0
            ? "Changed last"
            : "Nothing here yet."
          : items.length === 0 && !found.isFetching && search
            ? `Nothing has every word of “${search}”.`
            : ""}
      </p>
      <ComboboxOptions static className="mt-1 outline-none">
        {items.map((each) => (
          <ComboboxOption
            key={`${each.kind} ${each.id}`}
            value={each}
            className="data-focus:bg-sunk border-rule grid min-h-11 cursor-pointer grid-cols-[6.5rem_minmax(0,1fr)] items-center border-b py-1 max-sm:grid-cols-[5rem_minmax(0,1fr)]"
          >
            <span className="text-soft text-sm">{each.kind}</span>
            <span className="min-w-0">
              {each.title}
              {each.told && <span className="text-soft block truncate text-sm">{each.told}</span>}
            </span>
          </ComboboxOption>
        ))}
      </ComboboxOptions>
    </Combobox>
  );
}
