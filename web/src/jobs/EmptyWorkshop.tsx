import { useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { Link, useNavigate } from "react-router";

import { ImportSheet } from "../bench/ImportSheet";
import { useLogIn, useSession } from "../session/useSession";
import { Button, LINK_BUTTON } from "../ui/Button";
import { Complaint } from "../ui/Complaint";

/** What to do first in a workshop that has nothing yet, each with the button that does it. */
export function EmptyWorkshop() {
  const navigate = useNavigate();
  const client = useQueryClient();
  const session = useSession();
  const demo = useLogIn();
  const forgetAll = () =>
    void client.invalidateQueries({ predicate: ({ queryKey }) => queryKey[0] !== "session" });
  return (
    <section aria-label="Where to begin" className="mt-2 max-w-2xl">
      <p className="mb-4">No job yet. Ways to begin:</p>
      <ol className="border-rule border-t">
        <Way words="Four questions about a car, its supply, an amplifier and its drivers; usual values stand in for what you do not know.">
          <Button strong onClick={() => void navigate("/jobs/new")}>
            Start a job
          </Button>
        </Way>
        <Way words="An amplifier that you measured: a CSV file with load, criterion and watts at least.">
          <ImportSheet quiet />
        </Way>
        <Way words="The job in ten steps, from the bench to the proof in the car.">
          <Link className={LINK_BUTTON} to="/guide/steps">
            Read the guide
          </Link>
        </Way>
        {session.data?.demo && (
          <Way words="A made-up workshop with five cars and nine amplifiers, to look round in.">
            <Button onClick={() => demo.mutate("demo", { onSuccess: forgetAll })} disabled={demo.isPending}>
              Open the demo
            </Button>
          </Way>
        )}
      </ol>
      {demo.error && <Complaint>{demo.error.message}</Complaint>}
    </section>
  );
}

function Way({ words, children }: { words: string; children: ReactNode }) {
  return (
    <li className="border-rule flex flex-wrap items-center justify-between gap-3 border-b py-3">
      <span className="min-w-0 flex-1 basis-72">{words}</span>
      {children}
    </li>
  );
}
