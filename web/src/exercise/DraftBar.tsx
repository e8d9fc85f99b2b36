import { Problem } from "../api/client";
import { Bar, Trouble } from "../controls/notices";
import { when } from "../app/format";
import type { Working } from "./working";

/** Says that somebody else works on the exercise. */
export function OtherHand({ working, take }: { working: Working; take: () => void }) {
  return (
    <div
      className="flex flex-wrap items-center gap-3 border-b border-base-300 bg-base-200 px-4 py-2"
      role="note"
    >
      <p className="text-sm">
        <span className="font-semibold">{working.by} works on this exercise</span>, last{" "}
        {when(working.changed)}. You see it as it is now. Whoever takes it over goes on from here;
        nothing of it is lost.
      </p>
      <button type="button" className="btn btn-xs ml-auto" onClick={take}>
        Take it over
      </button>
    </div>
  );
}

/** What stands against saving or changing a draft, with the way on. */
export function DraftTrouble({
  error,
  over,
  insist,
}: {
  error: unknown;
  /** Saves over what was saved meanwhile. */
  over: () => void;
  /** Puts what is filled in here in the place of what was done elsewhere. */
  insist?: () => void;
}) {
  const conflict = error instanceof Problem && error.status === 409;
  return (
    <>
      <Trouble error={error} />
      {conflict && !error.code && insist && (
        <div className="border-b border-base-300 px-4 py-1.5">
          <button type="button" className="btn btn-xs" onClick={insist}>
            Put mine in its place
          </button>
        </div>
      )}
      {conflict && error.code === "newer-saved" && (
        <div className="border-b border-base-300 px-4 py-1.5">
          <button type="button" className="btn btn-xs" onClick={over}>
            Save this all the same
          </button>
        </div>
      )}
    </>
  );
}

/** Says that work of before is here again. */
export function HereAgain() {
  return <Bar>What you did to this exercise before is here again; it is not saved yet.</Bar>;
}
