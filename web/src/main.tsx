import { notifyManager, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";

import { Answers } from "./api/answers";
import { App } from "./App";
import { applyTheme, storedTheme } from "./frame/theme";
import "./styles.css";

const RELOADED = "under-hood-reloaded";

applyTheme(storedTheme());
// What has come is drawn at once, before whatever else waits for its turn.
notifyManager.setScheduler(queueMicrotask);
const client = new Answers({
  defaultOptions: { queries: { retry: false, refetchOnWindowFocus: false, staleTime: 10_000 } },
});
// After an update the parts of the old page are gone: load the new one, once; what was typed is kept in the browser.
window.addEventListener("vite:preloadError", (event) => {
  if (sessionStorage.getItem(RELOADED) === window.location.href) return;
  sessionStorage.setItem(RELOADED, window.location.href);
  event.preventDefault();
  window.location.reload();
});
const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={client}>
        <BrowserRouter>
          <App />
        </BrowserRouter>
      </QueryClientProvider>
    </StrictMode>,
  );
}
