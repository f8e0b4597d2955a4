import { Suspense, lazy } from "react";
import { Link, Navigate, Route, Routes } from "react-router";
import { RigHome } from "./rig/RigHome";
import { RigList } from "./rig/RigList";
import { NoticeBoard } from "./shell/Notices";
import { Shell } from "./shell/Shell";
import { Empty, Skeleton } from "./shell/States";
import { usePreferences } from "./shell/preferences";
import { UnitContext } from "./units/units";

const BenchPage = lazy(() => import("./bench/BenchPage"));
const FamiliesPage = lazy(() => import("./families/FamiliesPage"));
const LinePage = lazy(() => import("./line/LinePage"));
const PartsPage = lazy(() => import("./parts/PartsPage"));
const SheetPage = lazy(() => import("./wire/SheetPage"));
const TakeListPage = lazy(() => import("./takes/TakeListPage"));
const TakePage = lazy(() => import("./takes/TakePage"));
const WirePage = lazy(() => import("./wire/WirePage"));

export function App() {
  const [{ units }] = usePreferences();
  return (
    <UnitContext value={units}>
      <NoticeBoard>
        <Suspense fallback={<Skeleton lines={8} />}>
          <Routes>
            <Route path="/" element={<RigList leaveWhenOne />} />
            <Route path="/rigs" element={<RigList />} />
            <Route path="/rigs/:rigId" element={<RigHome />} />
            <Route path="/rigs/:rigId/wire" element={<Navigate to="plan" replace />} />
            <Route path="/rigs/:rigId/wire/:view" element={<WirePage />} />
            <Route path="/rigs/:rigId/sheet" element={<SheetPage />} />
            <Route path="/rigs/:rigId/line" element={<LinePage />} />
            <Route path="/rigs/:rigId/recordings" element={<TakeListPage />} />
            <Route path="/rigs/:rigId/recordings/:takeId" element={<TakePage />} />
            <Route path="/parts" element={<PartsPage />} />
            <Route path="/parts/:bench" element={<PartsPage />} />
            <Route path="/families" element={<Navigate to="board" replace />} />
            <Route path="/families/:kind" element={<FamiliesPage />} />
            <Route path="/families/:kind/:name" element={<FamiliesPage />} />
            <Route path="/sensors/:sensorId" element={<Navigate to="heard" replace />} />
            <Route path="/sensors/:sensorId/:stage" element={<BenchPage />} />
            <Route
              path="*"
              element={
                <Shell rig={undefined}>
                  <Empty title="There is nothing at this address.">
                    <p>
                      <Link to="/rigs">Go to your rigs.</Link>
                    </p>
                  </Empty>
                </Shell>
              }
            />
          </Routes>
        </Suspense>
      </NoticeBoard>
    </UnitContext>
  );
}
