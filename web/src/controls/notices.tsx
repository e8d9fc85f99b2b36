import type { ReactNode } from "react";
import { Problem } from "../api/client";
import { cx } from "../app/cx";

/** Shown while something is being fetched. */
export function Loading({ what }: { what: string }) {
  return (
    <p className="flex items-center gap-2 p-6" role="status">
      <span className="loading loading-ring loading-sm" />
      Fetching {what} …
    </p>
  );
}

/** Says what went wrong and what to do. */
export function Trouble({ error, retry }: { error: unknown; retry?: () => void }) {
  const p =
    error instanceof Problem
      ? error
      : new Problem("something went wrong in this page", "reload it", 0);
  return (
    <div role="alert" className="border-l-4 border-error bg-base-100 px-4 py-3">
      <p className="font-semibold">{sentence(p.what)}</p>
      {p.remedy && <p>{sentence(p.remedy)}</p>}
      {retry && (
        <button type="button" className="btn btn-sm mt-2" onClick={retry}>
          Try again
        </button>
      )}
    </div>
  );
}

/** In place of a page that could not be fetched. */
export function PageTrouble(p: { error: unknown; retry?: () => void }) {
  return (
    <div className="p-6">
      <h1 className="mb-3">This page could not be opened</h1>
      <Trouble {...p} />
    </div>
  );
}

/** A text as a sentence. Names of geometry and of files keep their letters. */
export function sentence(s: string) {
  const t = /^([a-z]{1,2}\d|\S+\.\w)/.test(s) ? s : s.charAt(0).toUpperCase() + s.slice(1);
  return /[.!?]$/.test(t) ? t : `${t}.`;
}

/** Said where a list has nothing in it. */
export function Empty({ children }: { children: ReactNode }) {
  return <p className="px-4 py-3 text-sm opacity-80">{children}</p>;
}

/** A titled part of a page. */
export function Panel({
  title,
  side,
  children,
  id,
}: {
  title: string;
  side?: ReactNode;
  children: ReactNode;
  id?: string;
}) {
  return (
    <section className="border border-base-300 bg-base-100" aria-label={title} id={id}>
      <div className="flex items-center gap-3 border-b border-base-300 px-4 py-2">
        <h2 className="mr-auto">{title}</h2>
        {side}
      </div>
      {children}
    </section>
  );
}

/** A message over a picture: it covers a little and moves nothing. */
export function Bar({ bad = false, children }: { bad?: boolean; children: ReactNode }) {
  return (
    <div
      role={bad ? "alert" : "status"}
      className={cx(
        "border border-base-300 bg-base-100 px-3 py-1 text-sm shadow",
        bad && "border-l-4 border-l-error",
      )}
    >
      {children}
    </div>
  );
}
