import type { ReactNode } from "react";
import { useState } from "react";
import { Link, NavLink, useNavigate } from "react-router";
import { useOutage } from "./outage";
import type { Me } from "../api/client";
import { Entry, Menu } from "../controls/Menu";
import { isStaff, teaches, useSignOut, useSignOutEverywhere } from "../session/session";
import { Bell } from "../telling/Bell";
import { cx } from "./cx";

function ThemeSwitch() {
  const [theme, setTheme] = useState(document.documentElement.dataset.theme ?? "paper");
  const other = theme === "paper" ? "lamp" : "paper";
  const change = () => {
    document.documentElement.dataset.theme = other;
    localStorage.setItem("theme", other);
    setTheme(other);
  };
  return (
    <button type="button" className="btn btn-ghost btn-sm" onClick={change}>
      {other === "lamp" ? "Lamp light" : "Day light"}
    </button>
  );
}

/** The places that somebody can go to from everywhere. */
function places(me: Me): [string, string][] {
  const staff = isStaff(me);
  const out: [string, string][] = [["/", staff ? "Desk" : "My exercises"]];
  if (teaches(me)) out.push(["/exercises", "Exercises"]);
  if (staff) out.push(["/classes", "Classes"]);
  if (staff && me.roles.includes("student")) out.push(["/tasks", "My exercises"]);
  out.push(["/models", "My models"]);
  if (me.roles.includes("administrator")) out.push(["/accounts", "Accounts"]);
  return out;
}

/** Who is signed in, and what can be done about that. */
function Account({ me }: { me: Me }) {
  const go = useNavigate();
  const out = useSignOut();
  const everywhere = useSignOutEverywhere();
  return (
    <Menu name={me.name} wide>
      <li className="px-3 py-1 text-sm">
        {me.login}, {me.roles.join(", ")}
      </li>
      <Entry name="Mail and calendar" run={() => void go("/telling")} />
      <Entry name="Change my password" run={() => void go("/password")} />
      <Entry name="Sign out in all browsers" run={() => everywhere.mutate()} />
      <Entry name="Sign out" run={() => out.mutate()} />
    </Menu>
  );
}

/** The band at the top, as on the head of a drawing, and the page below it. */
export function Frame({ me, children }: { me: Me; children: ReactNode }) {
  const away = useOutage();
  return (
    <div id="frame" className="flex h-screen flex-col">
      <a
        href="#page"
        className="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:bg-base-100 focus:p-2"
      >
        To the page
      </a>
      <header
        className={cx(
          "flex flex-wrap items-center gap-x-4 border-b-2 border-neutral bg-base-100",
          "px-4 py-1.5",
        )}
      >
        <Link to="/" className="font-heading flex items-center gap-2 text-lg font-semibold">
          <img src="/mark.svg" alt="" className="size-6" />
          Hammerset
        </Link>
        <nav className="flex flex-wrap gap-3 text-sm" aria-label="Main">
          {places(me).map(([to, name]) => (
            <NavLink
              key={to}
              to={to}
              end={to === "/"}
              className={({ isActive }) => cx("link-hover link", isActive && "font-semibold")}
            >
              {name}
            </NavLink>
          ))}
        </nav>
        <span className="ml-auto" />
        <ThemeSwitch />
        {!me.mustChange && <Bell />}
        <Account me={me} />
      </header>
      {away && (
        // Over the page, so that nothing on it moves under the hand.
        <p
          role="alert"
          className={cx(
            "fixed bottom-3 left-1/2 z-50 -translate-x-1/2 border-2 border-error bg-base-100",
            "px-4 py-1 text-sm shadow",
          )}
        >
          The server cannot be reached. What you do here is kept, and it is tried again every few
          seconds.
        </p>
      )}
      <main id="page" className="min-h-0 flex-1 overflow-auto">
        {children}
      </main>
    </div>
  );
}
