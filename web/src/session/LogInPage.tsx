import { LogInForm } from "./LogInForm";

/** Log in; on a demo server one click enters the demo workshop. */
export function LogInPage({ demo }: { demo: boolean }) {
  return (
    <main className="grid min-h-screen place-items-center p-6">
      <div className="border-rule bg-sheet w-full max-w-sm border p-8">
        <h1 className="text-2xl font-bold">Under Hood</h1>
        <p className="text-soft mt-1 mb-6">Plans amplifiers and the supply they need, from measured data.</p>
        <LogInForm demo={demo} />
      </div>
    </main>
  );
}
