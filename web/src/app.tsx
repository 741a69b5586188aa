import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useEffect, useLayoutEffect } from "react";
import { Route, Routes, useLocation } from "react-router";
import { meQuery, signInQuery } from "./api/queries";
import { useLeftBehind } from "./api/useLeftBehind";
import { courier } from "./core/courier";
import { useCore } from "./core/useHeld";
import { timesIn } from "./parts/format";
import { useLock } from "./parts/useLock";
import { Somebody } from "./parts/useMe";
import { Waiting } from "./parts/Waiting";
import { DashboardScreen } from "./screens/dashboard/DashboardScreen";
import { NotHere } from "./screens/NotHere";
import { SignInScreen } from "./screens/people/SignInScreen";
import { TightenScreen } from "./screens/runs/tighten/TightenScreen";
import { SpecScreen } from "./screens/specs/SpecScreen";

// What is not needed to find a spec and work through a run comes when it is opened.
const SetUpScreen = lazy(() =>
  import("./screens/shop/SetUpScreen").then((screen) => ({ default: screen.SetUpScreen })),
);
const MachineScreen = lazy(() =>
  import("./screens/machines/MachineScreen").then((screen) => ({ default: screen.MachineScreen })),
);
const OutboxScreen = lazy(() =>
  import("./screens/runs/OutboxScreen").then((screen) => ({ default: screen.OutboxScreen })),
);
const WeekScreen = lazy(() => import("./screens/week/WeekScreen").then((screen) => ({ default: screen.WeekScreen })));
const RecordsScreen = lazy(() =>
  import("./screens/records/RecordsScreen").then((screen) => ({ default: screen.RecordsScreen })),
);
const GuideScreen = lazy(() =>
  import("./screens/guide/GuideScreen").then((screen) => ({ default: screen.GuideScreen })),
);
const GoScreen = lazy(() => import("./screens/go/GoScreen").then((screen) => ({ default: screen.GoScreen })));
const NoticesScreen = lazy(() =>
  import("./screens/notices/NoticesScreen").then((screen) => ({ default: screen.NoticesScreen })),
);
const CardScreen = lazy(() =>
  import("./screens/runs/card/CardScreen").then((screen) => ({ default: screen.CardScreen })),
);
const PaperScreen = lazy(() =>
  import("./screens/runs/PaperScreen").then((screen) => ({ default: screen.PaperScreen })),
);
const PrepareScreen = lazy(() =>
  import("./screens/runs/prepare/PrepareScreen").then((screen) => ({ default: screen.PrepareScreen })),
);
const ShopScreen = lazy(() => import("./screens/shop/ShopScreen").then((screen) => ({ default: screen.ShopScreen })));
const AddSpec = lazy(() => import("./screens/specs/AddSpec").then((screen) => ({ default: screen.AddSpec })));
const CompareScreen = lazy(() =>
  import("./screens/specs/CompareScreen").then((screen) => ({ default: screen.CompareScreen })),
);
const EditScreen = lazy(() =>
  import("./screens/specs/edit/EditScreen").then((screen) => ({ default: screen.EditScreen })),
);
const ImportScreen = lazy(() =>
  import("./screens/specs/ImportScreen").then((screen) => ({ default: screen.ImportScreen })),
);
const AddTool = lazy(() => import("./screens/tools/AddTool").then((screen) => ({ default: screen.AddTool })));
const CribScreen = lazy(() => import("./screens/tools/CribScreen").then((screen) => ({ default: screen.CribScreen })));
const ToolScreen = lazy(() => import("./screens/tools/ToolScreen").then((screen) => ({ default: screen.ToolScreen })));
const AddMachine = lazy(() =>
  import("./screens/machines/AddMachine").then((screen) => ({ default: screen.AddMachine })),
);
const InstrumentsScreen = lazy(() =>
  import("./screens/devices/InstrumentsScreen").then((screen) => ({ default: screen.InstrumentsScreen })),
);
const PeopleScreen = lazy(() =>
  import("./screens/people/PeopleScreen").then((screen) => ({ default: screen.PeopleScreen })),
);
const TabletsScreen = lazy(() =>
  import("./screens/devices/TabletsScreen").then((screen) => ({ default: screen.TabletsScreen })),
);
const ChangePin = lazy(() => import("./screens/people/ChangePin").then((screen) => ({ default: screen.ChangePin })));
const AddPerson = lazy(() => import("./screens/people/AddPerson").then((screen) => ({ default: screen.AddPerson })));
const LabScreen = lazy(() => import("./screens/lab/LabScreen").then((screen) => ({ default: screen.LabScreen })));
const PracticeScreen = lazy(() =>
  import("./screens/practice/PracticeScreen").then((screen) => ({ default: screen.PracticeScreen })),
);
const DrillScreen = lazy(() =>
  import("./screens/practice/DrillScreen").then((screen) => ({ default: screen.DrillScreen })),
);
const ModelScreen = lazy(() =>
  import("./screens/machines/ModelScreen").then((screen) => ({ default: screen.ModelScreen })),
);

/** Nobody gets past the door without a name; the address is kept, so one arrives where one meant to. */
export function App() {
  const door = useQuery(signInQuery);
  useLeftBehind();
  const me = useQuery(meQuery);
  if (door.data) timesIn(door.data.time_zone, door.data.dates);
  if (!door.data) return <Waiting error={door.error} />;
  if (door.data.shop === null) {
    return (
      <Suspense fallback={<Waiting error={null} />}>
        <SetUpScreen />
      </Suspense>
    );
  }
  if (me.data === null) {
    return (
      <Suspense fallback={<Waiting error={null} />}>
        <Routes>
          <Route path="/guide/:page" element={<GuideScreen atTheDoor />} />
          <Route path="*" element={<SignInScreen door={door.data} />} />
        </Routes>
      </Suspense>
    );
  }
  if (!me.data) return <Waiting error={me.error} />;
  return (
    <Somebody value={me.data}>
      <Inside mustChange={me.data.must_change} />
    </Somebody>
  );
}

/** Behind the door: a screen for each address. */
function Inside({ mustChange }: { mustChange: boolean }) {
  useLock();
  useCore("later");
  useEffect(() => courier.begin(), []);
  const { pathname } = useLocation();
  useLayoutEffect(() => {
    document.documentElement.dataset.screen = pathname; // which screen is shown; while the next one is fetched, it is still the last one
  }, [pathname]);
  if (mustChange) {
    return (
      <Suspense fallback={<Waiting error={null} />}>
        <ChangePin />
      </Suspense>
    );
  }
  return (
    <Suspense fallback={<Waiting error={null} />}>
      <Routes>
        <Route path="/" element={<DashboardScreen />} />
        <Route path="/machines/:id" element={<MachineScreen />} />
        <Route path="/specs/:id" element={<SpecScreen />} />
        <Route path="/specs/:id/compare" element={<CompareScreen />} />
        <Route path="/specs/:id/edit" element={<EditScreen />} />
        <Route path="/crib" element={<CribScreen />} />
        <Route path="/crib/:id" element={<ToolScreen />} />
        <Route path="/models" element={<ModelScreen />} />
        <Route path="/specs/:id/prepare" element={<PrepareScreen />} />
        <Route path="/runs/:id" element={<TightenScreen />} />
        <Route path="/runs/:id/card" element={<CardScreen />} />
        <Route path="/runs/:id/paper" element={<PaperScreen />} />
        <Route path="/guide/:page" element={<GuideScreen />} />
        <Route path="/lab/:page" element={<LabScreen />} />
        <Route path="/practice" element={<PracticeScreen />} />
        <Route path="/practice/:drill" element={<DrillScreen />} />
        <Route path="/week" element={<WeekScreen />} />
        <Route path="/records" element={<RecordsScreen />} />
        <Route path="/go/followup/:root/:name" element={<GoScreen />} />
        <Route path="/notices" element={<NoticesScreen />} />
        <Route path="/outbox" element={<OutboxScreen />} />
        <Route path="/shop" element={<ShopScreen />} />
        <Route path="/add/machine" element={<AddMachine />} />
        <Route path="/add/spec" element={<AddSpec />} />
        <Route path="/add/spec/whole" element={<EditScreen />} />
        <Route path="/add/file" element={<ImportScreen />} />
        <Route path="/add/tool" element={<AddTool />} />
        <Route path="/instruments" element={<InstrumentsScreen />} />
        <Route path="/tablets" element={<TabletsScreen />} />
        <Route path="/people" element={<PeopleScreen />} />
        <Route path="/me" element={<ChangePin />} />
        <Route path="/add/person" element={<AddPerson />} />
        <Route path="*" element={<NotHere />} />
      </Routes>
    </Suspense>
  );
}
