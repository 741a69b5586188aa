import { useQuery } from "@tanstack/react-query";
import { Route, Routes } from "react-router";
import { Problem } from "./api/client";
import { meQuery, signInQuery } from "./api/queries";
import { useLeftBehind } from "./api/useLeftBehind";
import { Waiting } from "./parts/Waiting";
import { DashboardScreen } from "./screens/dashboard/DashboardScreen";
import { AddMachine } from "./screens/machines/AddMachine";
import { MachineScreen } from "./screens/machines/MachineScreen";
import { ModelScreen } from "./screens/machines/ModelScreen";
import { NotHere } from "./screens/NotHere";
import { AddPerson } from "./screens/people/AddPerson";
import { SignInScreen } from "./screens/people/SignInScreen";
import { CardScreen } from "./screens/runs/card/CardScreen";
import { PrepareScreen } from "./screens/runs/prepare/PrepareScreen";
import { TightenScreen } from "./screens/runs/tighten/TightenScreen";
import { SetUpScreen } from "./screens/shop/SetUpScreen";
import { ShopScreen } from "./screens/shop/ShopScreen";
import { AddSpec } from "./screens/specs/AddSpec";
import { CompareScreen } from "./screens/specs/CompareScreen";
import { EditScreen } from "./screens/specs/edit/EditScreen";
import { ImportScreen } from "./screens/specs/ImportScreen";
import { SpecScreen } from "./screens/specs/SpecScreen";
import { AddTool } from "./screens/tools/AddTool";
import { CribScreen } from "./screens/tools/CribScreen";
import { ToolScreen } from "./screens/tools/ToolScreen";

/** Nobody gets past the door without a name; the address is kept, so one arrives where one meant to. */
export function App() {
  const door = useQuery(signInQuery);
  useLeftBehind();
  const me = useQuery(meQuery);
  if (!door.data) return <Waiting error={door.error} />;
  if (door.data.shop === null) return <SetUpScreen />;
  const nobody = me.error instanceof Problem && me.error.status === 401;
  if (nobody) return <SignInScreen door={door.data} />;
  if (!me.data) return <Waiting error={me.error} />;
  return (
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
      <Route path="/shop" element={<ShopScreen />} />
      <Route path="/add/machine" element={<AddMachine />} />
      <Route path="/add/spec" element={<AddSpec />} />
      <Route path="/add/spec/whole" element={<EditScreen />} />
      <Route path="/add/file" element={<ImportScreen />} />
      <Route path="/add/tool" element={<AddTool />} />
      <Route path="/add/person" element={<AddPerson />} />
      <Route path="*" element={<NotHere />} />
    </Routes>
  );
}
