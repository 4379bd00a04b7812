import { notifyManager, QueryClientProvider } from "@tanstack/react-query";
import { render } from "@testing-library/react";
import type { ReactNode } from "react";
import { MemoryRouter, useLocation } from "react-router";

import { Answers } from "../api/answers";

notifyManager.setScheduler(queueMicrotask); // as in main.tsx

function Where() {
  return <output aria-label="address">{useLocation().pathname}</output>;
}

/** Shows something as a page of the application does: with a store of answers, and an address. */
export function openPage(
  children: ReactNode,
  client = new Answers({ defaultOptions: { queries: { retry: false } } }),
) {
  return render(
    <QueryClientProvider client={client}>
      <MemoryRouter>
        {children}
        <Where />
      </MemoryRouter>
    </QueryClientProvider>,
  );
}
