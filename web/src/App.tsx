import { Navigate, Route, Routes } from "react-router";

import { AmplifierPage } from "./bench/AmplifierPage";
import { BenchPage } from "./bench/BenchPage";
import { ComparePage } from "./bench/ComparePage";
import { ResistorBankPage } from "./bench/resistors/ResistorBankPage";
import { Frame } from "./frame/Frame";
import { JobPage } from "./job/JobPage";
import { JobsPage } from "./jobs/JobsPage";
import { PartsPage } from "./parts/PartsPage";
import { LogInPage } from "./session/LogInPage";
import { useSession } from "./session/useSession";
import { ShopPage } from "./shop/ShopPage";
import { TonesPage } from "./tones/TonesPage";

/** The whole interface: log-in, or the frame with one place in it. */
export function App() {
  const session = useSession();
  if (session.isPending) return null;
  if (!session.data?.username) return <LogInPage demo={session.data?.demo ?? false} />;
  return (
    <Routes>
      <Route element={<Frame session={session.data} />}>
        <Route path="/jobs" element={<JobsPage />} />
        <Route path="/jobs/:id" element={<JobPage />} />
        <Route path="/jobs/:id/:station" element={<JobPage />} />
        <Route path="/bench" element={<BenchPage />} />
        <Route path="/bench/compare" element={<ComparePage />} />
        <Route path="/bench/resistors" element={<ResistorBankPage />} />
        <Route path="/bench/:id" element={<AmplifierPage />} />
        <Route path="/bench/:id/:view" element={<AmplifierPage />} />
        <Route path="/parts" element={<PartsPage />} />
        <Route path="/tones" element={<TonesPage />} />
        <Route path="/shop" element={<ShopPage />} />
        <Route path="*" element={<Navigate to="/jobs" replace />} />
      </Route>
    </Routes>
  );
}
