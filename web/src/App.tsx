import { lazy, Suspense } from "react";
import { Navigate, Route, Routes, useLocation } from "react-router";

import { Frame } from "./frame/Frame";
import { JobsPage } from "./jobs/JobsPage";
import { LogInPage } from "./session/LogInPage";
import { useSession } from "./session/useSession";
import { applyWriting } from "./ui/writing";

// Each page comes when it is first opened.
const AmplifierPage = lazy(async () => ({ default: (await import("./bench/AmplifierPage")).AmplifierPage }));
const BenchPage = lazy(async () => ({ default: (await import("./bench/BenchPage")).BenchPage }));
const ComparePage = lazy(async () => ({ default: (await import("./bench/ComparePage")).ComparePage }));
const ResistorBankPage = lazy(async () => ({
  default: (await import("./bench/resistors/ResistorBankPage")).ResistorBankPage,
}));
const PracticePage = lazy(async () => ({
  default: (await import("./bench/practice/PracticePage")).PracticePage,
}));
const JobPage = lazy(async () => ({ default: (await import("./job/JobPage")).JobPage }));
const StartPage = lazy(async () => ({ default: (await import("./jobs/start/StartPage")).StartPage }));
const PartsPage = lazy(async () => ({ default: (await import("./parts/PartsPage")).PartsPage }));
const ShopPage = lazy(async () => ({ default: (await import("./shop/ShopPage")).ShopPage }));
const PeoplePage = lazy(async () => ({ default: (await import("./people/PeoplePage")).PeoplePage }));
const AccountPage = lazy(async () => ({ default: (await import("./people/AccountPage")).AccountPage }));
const RecordsPage = lazy(async () => ({ default: (await import("./records/RecordsPage")).RecordsPage }));
const DataPage = lazy(async () => ({ default: (await import("./data/DataPage")).DataPage }));
const SheetPage = lazy(async () => ({ default: (await import("./sheet/SheetPage")).SheetPage }));
const JoinPage = lazy(async () => ({ default: (await import("./session/JoinPage")).JoinPage }));
const GuidePage = lazy(async () => ({ default: (await import("./guide/GuidePage")).GuidePage }));
const TonesPage = lazy(async () => ({ default: (await import("./tones/TonesPage")).TonesPage }));

/** The whole interface: log-in, or the frame with one place in it. */
export function App() {
  const session = useSession();
  const location = useLocation();
  if (session.isPending) return null;
  if (location.pathname.startsWith("/join/"))
    return (
      <Suspense>
        <Routes>
          <Route path="/join/:secret" element={<JoinPage />} />
        </Routes>
      </Suspense>
    );
  if (!session.data?.username) return <LogInPage demo={session.data?.demo ?? false} />;
  const { writing } = session.data;
  applyWriting(writing);
  return (
    // Everything is drawn anew where the workshop writes otherwise from now on.
    <Routes key={JSON.stringify(writing)}>
      <Route element={<Frame session={session.data} />}>
        <Route path="/jobs" element={<JobsPage />} />
        <Route path="/jobs/new" element={<StartPage />} />
        <Route path="/jobs/:id" element={<JobPage />} />
        <Route path="/jobs/:id/sheet" element={<SheetPage />} />
        <Route path="/jobs/:id/:station" element={<JobPage />} />
        <Route path="/bench" element={<BenchPage />} />
        <Route path="/bench/compare" element={<ComparePage />} />
        <Route path="/bench/resistors" element={<ResistorBankPage />} />
        <Route path="/bench/practice" element={<PracticePage />} />
        <Route path="/bench/:id" element={<AmplifierPage />} />
        <Route path="/bench/:id/:view" element={<AmplifierPage />} />
        <Route path="/parts" element={<PartsPage />} />
        <Route path="/tones" element={<TonesPage />} />
        <Route path="/guide" element={<GuidePage />} />
        <Route path="/guide/:page" element={<GuidePage />} />
        <Route path="/shop" element={<ShopPage />} />
        <Route path="/shop/people" element={<PeoplePage />} />
        <Route path="/shop/records" element={<RecordsPage />} />
        <Route path="/shop/data" element={<DataPage />} />
        <Route path="/shop/you" element={<AccountPage />} />
        <Route path="*" element={<Navigate to="/jobs" replace />} />
      </Route>
    </Routes>
  );
}
