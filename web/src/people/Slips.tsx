import type { Schemas } from "../api/client";
import { cx } from "../app/cx";

type Slip = Schemas["Slip"];

/** First passwords, shown this once: a slip of paper for each, to print and to cut. */
export function Slips({ slips, done }: { slips: Slip[]; done: () => void }) {
  return (
    <section className="k-slips border-2 border-primary bg-base-100" aria-label="First passwords">
      <div
        className={cx(
          "flex flex-wrap items-center gap-3 border-b border-base-300 px-4 py-2",
          "print:hidden",
        )}
      >
        <p className="mr-auto text-sm">
          <b>Shown this once.</b> Print the slips or write them down: nobody can read these
          passwords again. Each is changed at the first sign-in.
        </p>
        <button type="button" className="btn btn-primary btn-sm" onClick={() => window.print()}>
          Print
        </button>
        <button type="button" className="btn btn-sm" onClick={done}>
          I have them
        </button>
      </div>
      <ul className="grid gap-2 p-3 sm:grid-cols-2 lg:grid-cols-3">
        {slips.map((s) => (
          <li
            key={s.login}
            className="break-inside-avoid border border-dashed border-base-content/60 p-3"
            data-slip={s.login}
          >
            <p className="font-semibold">{s.name}</p>
            <dl className="grid grid-cols-[5rem_1fr] text-sm">
              <dt>Login</dt>
              <dd className="font-mono">{s.login}</dd>
              <dt>Password</dt>
              <dd className="font-mono" data-password>
                {s.password}
              </dd>
            </dl>
            <p className="mt-1 text-xs">
              {window.location.origin}. You choose a password of your own when you first sign in.
            </p>
          </li>
        ))}
      </ul>
    </section>
  );
}
