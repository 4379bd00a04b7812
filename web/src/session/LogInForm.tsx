import { useState } from "react";

import { Button } from "../ui/Button";
import { Complaint } from "../ui/Complaint";
import { useLogIn } from "./useSession";
import { Input } from "../ui/Input";

const INPUT = "mt-1 block w-full";

/** Name and password; on a demo server one click does instead. */
export function LogInForm({ demo, onDone }: { demo: boolean; onDone?: () => void }) {
  const [username, setUsername] = useState("");
  const [password, setPassword] = useState("");
  const logIn = useLogIn();
  return (
    <>
      {demo && (
        <>
          <Button strong wide onClick={() => logIn.mutate("demo", { onSuccess: onDone })}>
            Enter the demo workshop
          </Button>
          <p className="text-soft mt-2 mb-6 text-sm">Everything in it is made up. No account needed.</p>
        </>
      )}
      <form
        onSubmit={(event) => {
          event.preventDefault();
          logIn.mutate({ username, password }, { onSuccess: onDone });
        }}
      >
        <label className="block">
          Name
          <Input
            className={INPUT}
            value={username}
            onChange={(e) => setUsername(e.target.value)}
            autoComplete="username"
          />
        </label>
        <label className="mt-3 block">
          Password
          <Input
            className={INPUT}
            type="password"
            value={password}
            onChange={(e) => setPassword(e.target.value)}
            autoComplete="current-password"
          />
        </label>
        <div className="mt-5">
          <Button wide type="submit" strong={!demo}>
            Log in
          </Button>
        </div>
        {logIn.error && <Complaint>{logIn.error.message}</Complaint>}
      </form>
    </>
  );
}
