import { useState } from "react";
import { Link, Route, Routes, useLocation } from "react-router";
import type { Me } from "../api/client";
import { Attempt } from "../attempt/AttemptPage";
import { Desk } from "../desk/DeskPage";
import { Roster } from "../desk/RosterPage";
import { Users } from "../desk/UsersPage";
import { Exercise } from "../exercise/ExercisePage";
import { Exercises } from "../exercise/ExercisesPage";
import { Home } from "../issue/HomePage";
import { ClassPage } from "../review/ClassPage";
import { GradebookPage } from "../review/GradebookPage";
import { RecheckPage } from "../review/RecheckPage";
import { RubricPage } from "../review/RubricPage";
import { IssuePage } from "../issue/IssuePage";
import { ModelsPage } from "../model/ModelsPage";
import { ClassListPage } from "../people/ClassListPage";
import { Classes } from "../people/ClassesPage";
import { PasswordPage } from "../people/PasswordPage";
import { isStaff, teaches, useMe } from "../session/session";
import { ChooseByLink, Forgotten } from "../session/Forgotten";
import { SignIn, SignInAgain } from "../session/SignIn";
import { MessagesPage } from "../telling/MessagesPage";
import { TellingPage } from "../telling/TellingPage";
import { Boundary } from "./Boundary";
import { Frame } from "./Frame";
import { keepFor } from "./keep";
import { assemblySheet, fittingScreen, modelSheet, modeller, sketchBoard } from "./pages";
import { Loading, Trouble } from "../controls/notices";

/** The whole interface: sign-in, or the pages of whoever is signed in. */
export function App() {
  const session = useMe();
  const { pathname } = useLocation();
  // A page stays with its person when the session ends or the server is away for a while.
  const [known, setKnown] = useState<Me | null>(null);
  const me = session.data ?? known;
  if (session.data && session.data !== known) {
    keepFor(session.data.login);
    setKnown(session.data);
  }
  if (pathname === "/choose-password") return <ChooseByLink />; // whoever is signed in here
  if (!me && session.isPending) return <Loading what="your desk" />;
  if (!me && session.error)
    return (
      <div className="p-8">
        <Trouble error={session.error} retry={() => void session.refetch()} />
      </div>
    );
  if (!me) return pathname === "/forgotten" ? <Forgotten /> : <SignIn />;
  return <Pages me={me} ended={session.data === null} />;
}

function Pages({ me, ended }: { me: Me; ended: boolean }) {
  const staff = isStaff(me);
  const { pathname } = useLocation();
  if (me.mustChange)
    return (
      <Frame me={me}>
        {ended && <SignInAgain me={me} />}
        <PasswordPage me={me} />
      </Frame>
    );
  return (
    <Frame me={me}>
      {ended && <SignInAgain me={me} />}
      <Boundary key={pathname}>
        <Routes>
          <Route path="/" element={staff ? <Desk me={me} /> : <Home />} />
          <Route path="/issues/:id" element={<IssuePage />} />
          {staff && <Route path="/issues/:id/class" element={<ClassPage />} />}
          {staff && <Route path="/issues/:id/rubric" element={<RubricPage />} />}
          {staff && <Route path="/issues/:id/recheck" element={<RecheckPage />} />}
          <Route path="/attempts/:id" element={<Attempt />} />
          {staff && <Route path="/exercises/:id" element={<Exercise />} />}
          {teaches(me) && <Route path="/exercises" element={<Exercises />} />}
          {staff && <Route path="/classes" element={<Classes me={me} />} />}
          {staff && <Route path="/classes/:id" element={<Roster />} />}
          {staff && <Route path="/classes/:id/list" element={<ClassListPage />} />}
          {staff && <Route path="/classes/:id/gradebook" element={<GradebookPage />} />}
          <Route path="/tasks" element={<Home />} />
          {me.roles.includes("administrator") && <Route path="/accounts" element={<Users />} />}
          <Route path="/password" element={<PasswordPage me={me} />} />
          <Route path="/messages" element={<MessagesPage />} />
          <Route path="/telling" element={<TellingPage />} />
          <Route path="/models" element={<ModelsPage />} />
          <Route path="/models/:id" element={<modeller.Page me={me} />} />
          <Route path="/models/:id/sheet" element={<modelSheet.Page />} />
          <Route path="/models/:id/sketches/:step" element={<sketchBoard.Page />} />
          <Route path="/assemblies/:id/sheet" element={<assemblySheet.Page />} />
          <Route path="/assemblies/:id" element={<fittingScreen.Page me={me} />} />
          <Route
            path="*"
            element={
              <div className="p-8">
                <h1 className="mb-2">No such page</h1>
                <p>
                  There is no such page, or it is not for your role.{" "}
                  <Link className="link" to="/">
                    Back to the first page
                  </Link>
                </p>
              </div>
            }
          />
        </Routes>
      </Boundary>
    </Frame>
  );
}
