import { Suspense } from "react";
import { Navigate, Route, Routes } from "react-router";
import { trailPages, sheet } from "./pages";
import { RigHome } from "./rig/RigHome";
import { RigList } from "./rig/RigList";
import { NoticeBoard } from "./shell/Notices";
import { Nowhere, Numbered } from "./shell/Nowhere";
import { Shell } from "./shell/Shell";
import { Skeleton } from "./shell/States";
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
            <Route
              path="/rigs/:rigId"
              element={
                <Numbered>
                  <RigHome />
                </Numbered>
              }
            />
            <Route path="/rigs/:rigId/wire" element={<Navigate to="plan" replace />} />
            <Route path="/families" element={<Navigate to="board" replace />} />
            <Route path="/sensors/:sensorId" element={<Navigate to="heard" replace />} />
            {trailPages.map(({ path, Page }) => (
              <Route
                key={path}
                path={path}
                element={
                  <Numbered>
                    <Page />
                  </Numbered>
                }
              />
            ))}
            <Route path="*" element={<Nowhere />} />
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
