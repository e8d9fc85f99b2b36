import { Suspense, lazy } from "react";
import { Route, Routes } from "react-router";
import { Attempt } from "../attempt/AttemptPage";
import { Desk } from "../desk/DeskPage";
import { Roster } from "../desk/RosterPage";
import { Users } from "../desk/UsersPage";
import { Exercise } from "../exercise/ExercisePage";
import { Home } from "../issue/HomePage";
import { ClassPage } from "../review/ClassPage";
import { RecheckPage } from "../review/RecheckPage";
import { RubricPage } from "../review/RubricPage";
import { IssuePage } from "../issue/IssuePage";
import { ModelsPage } from "../model/ModelsPage";
import { useMe } from "../session/session";
import { SignIn } from "../session/SignIn";
import { Frame } from "./Frame";
import { Loading, Trouble } from "./states";

const ModelPage = lazy(() => import("../model/ModelPage").then((m) => ({ default: m.ModelPage })));
const ModelSheetPage = lazy(() => import("../model/ModelPage").then((m) => ({ default: m.ModelSheetPage })));
const SketchPage = lazy(() => import("../sketch/SketchPage").then((m) => ({ default: m.SketchPage })));

/** The whole interface: sign-in, or the pages of whoever is signed in. */
export function App() {
  const me = useMe();
  if (me.isPending) return <Loading what="your desk" />;
  if (me.error) return <div className="p-8"><Trouble error={me.error} retry={() => void me.refetch()} /></div>;
  if (!me.data) return <SignIn />;
  const staff = me.data.role !== "student";
  return (
    <Frame me={me.data}>
      <Routes>
        <Route path="/" element={staff ? <Desk me={me.data} /> : <Home />} />
        <Route path="/issues/:id" element={<IssuePage me={me.data} />} />
        {staff && <Route path="/issues/:id/class" element={<ClassPage />} />}
        {staff && <Route path="/issues/:id/rubric" element={<RubricPage />} />}
        {staff && <Route path="/issues/:id/recheck" element={<RecheckPage />} />}
        <Route path="/attempts/:id" element={<Attempt me={me.data} />} />
        {staff && <Route path="/exercises/:id" element={<Exercise me={me.data} />} />}
        {staff && <Route path="/classes/:id" element={<Roster />} />}
        {me.data.role === "administrator" && <Route path="/accounts" element={<Users />} />}
        <Route path="/models" element={<ModelsPage />} />
        <Route path="/models/:id" element={<Suspense fallback={<Loading what="the modeller" />}><ModelPage me={me.data} /></Suspense>} />
        <Route path="/models/:id/sheet" element={<Suspense fallback={<Loading what="the sheet" />}><ModelSheetPage /></Suspense>} />
        <Route path="/models/:id/sketches/:step" element={<Suspense fallback={<Loading what="the drawing board" />}><SketchPage /></Suspense>} />
        <Route path="*" element={<p className="p-8">There is no such page, or it is not for your role.</p>} />
      </Routes>
    </Frame>
  );
}
