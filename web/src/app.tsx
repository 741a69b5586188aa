import { useQuery } from "@tanstack/react-query";
import { Route, Routes } from "react-router";
import { Problem } from "./api/client";
import { doorQuery, meQuery } from "./api/queries";
import { Waiting } from "./parts/Waiting";
import { AddMachine } from "./screens/add/AddMachine";
import { AddPerson } from "./screens/add/AddPerson";
import { AddSpec } from "./screens/add/AddSpec";
import { AddTool } from "./screens/add/AddTool";
import { ImportScreen } from "./screens/add/ImportScreen";
import { CardScreen } from "./screens/card/CardScreen";
import { CribScreen } from "./screens/crib/CribScreen";
import { DoorScreen } from "./screens/door/DoorScreen";
import { SetUpScreen } from "./screens/door/SetUpScreen";
import { EditScreen } from "./screens/edit/EditScreen";
import { HomeScreen } from "./screens/home/HomeScreen";
import { MachineScreen } from "./screens/machine/MachineScreen";
import { ModelScreen } from "./screens/model/ModelScreen";
import { PrepareScreen } from "./screens/prepare/PrepareScreen";
import { ShopScreen } from "./screens/shop/ShopScreen";
import { CompareScreen } from "./screens/spec/CompareScreen";
import { SpecScreen } from "./screens/spec/SpecScreen";
import { TightenScreen } from "./screens/tighten/TightenScreen";
import { ToolScreen } from "./screens/tool/ToolScreen";

/** Nobody gets past the door without a name; the address is kept, so one arrives where one meant to. */
export function App() {
  const door = useQuery(doorQuery);
  const me = useQuery(meQuery);
  if (!door.data) return <Waiting error={door.error} />;
  if (door.data.shop === null) return <SetUpScreen />;
  const nobody = me.error instanceof Problem && me.error.status === 403;
  if (nobody) return <DoorScreen door={door.data} />;
  if (!me.data) return <Waiting error={me.error} />;
  return (
    <Routes>
      <Route path="/" element={<HomeScreen />} />
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
      <Route path="*" element={<HomeScreen />} />
    </Routes>
  );
}
