import { Suspense } from "react";
import { Link, Navigate, Route, Routes } from "react-router";
import { trailPages, sheet } from "./pages";
import { RigHome } from "./rig/RigHome";
import { RigList } from "./rig/RigList";
import { NoticeBoard } from "./shell/Notices";
import { Shell } from "./shell/Shell";
import { Empty, Skeleton } from "./shell/States";
import { usePreferences } from "./shell/preferences";
import { UnitContext } from "./units/units";
import { useWordsInUnits } from "./units/useWordsInUnits";

export function App() {
  const [{ units }] = usePreferences();
  useWordsInUnits(units);
  return (
    <UnitContext value={units}>
      <NoticeBoard>
        <Routes>
          <Route element={<Shell />}>
            <Route path="/" element={<RigList leaveWhenOne />} />
            <Route path="/rigs" element={<RigList />} />
            <Route path="/rigs/:rigId" element={<RigHome />} />
            <Route path="/rigs/:rigId/wire" element={<Navigate to="plan" replace />} />
            <Route path="/families" element={<Navigate to="board" replace />} />
            <Route path="/sensors/:sensorId" element={<Navigate to="heard" replace />} />
            {trailPages.map(({ path, Page }) => (
              <Route key={path} path={path} element={<Page />} />
            ))}
            <Route
              path="*"
              element={
                <Empty title="There is nothing at this address.">
                  <p>
                    <Link to="/rigs">Go to your rigs.</Link>
                  </p>
                </Empty>
              }
            />
          </Route>
          <Route
            path={sheet.path}
            element={
              <Suspense fallback={<Skeleton lines={9} />}>
                <sheet.Page />
              </Suspense>
            }
          />
        </Routes>
      </NoticeBoard>
    </UnitContext>
  );
}
