import type { ReactNode } from "react";
import { ErrorBoundary, type FallbackProps } from "react-error-boundary";

import { Button } from "./Button";

/** A part of the page that fails alone: the others stay, and what was typed is kept. `again` opens it anew. */
export function Region({ name, again, children }: { name: string; again?: unknown; children: ReactNode }) {
  return (
    <ErrorBoundary
      resetKeys={[again]}
      fallbackRender={({ resetErrorBoundary }: FallbackProps) => (
        <div role="alert" className="border-vermilion bg-sheet m-5 border-l-4 px-4 py-3">
          <p>
            <b>{name} cannot be shown.</b> Everything that was typed is kept.
          </p>
          <div className="mt-3 flex flex-wrap gap-3">
            <Button onClick={resetErrorBoundary}>Try again</Button>
            <Button onClick={() => window.location.reload()}>Reload the page</Button>
          </div>
        </div>
      )}
    >
      {children}
    </ErrorBoundary>
  );
}
