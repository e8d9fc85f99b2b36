import type { ReactNode } from "react";
import { useState } from "react";
import { Link } from "react-router";
import { useOutage } from "./outage";
import type { Me } from "../api/client";
import { useSignOut } from "../session/session";
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

/** The band at the top, as on the head of a drawing, and the page below it. */
export function Frame({ me, children }: { me: Me; children: ReactNode }) {
  const out = useSignOut();
  const away = useOutage();
  return (
    <div className="flex h-screen flex-col">
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
        <nav className="flex gap-2 text-sm" aria-label="Main">
          <Link to="/" className="link-hover link">
            {me.role === "student" ? "My exercises" : "Desk"}
          </Link>
          <Link to="/models" className="link-hover link">
            My models
          </Link>
          {me.role === "administrator" && (
            <Link to="/accounts" className="link-hover link">
              Accounts
            </Link>
          )}
        </nav>
        <span className="ml-auto text-sm">
          <Link to="/password" className="link-hover link" title="Change my password">
            {me.name}
          </Link>
          , {me.role}
        </span>
        <ThemeSwitch />
        <button type="button" className="btn btn-ghost btn-sm" onClick={() => out.mutate()}>
          Sign out
        </button>
      </header>
      {away && (
        <p role="alert" className="border-b border-error bg-base-100 px-4 py-1 text-sm">
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
