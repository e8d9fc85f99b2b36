/** Turns to one sheet of a set, or shows all of them. */
export function PageButtons({
  count,
  page,
  show,
}: {
  count: number;
  page: number;
  show: (page: number) => void;
}) {
  if (count < 2) return null;
  return (
    <div className="join absolute right-2 bottom-2" role="group" aria-label="Sheets of the set">
      {Array.from({ length: count }, (_, n) => (
        <button
          key={n}
          type="button"
          className={`btn btn-xs join-item ${page === n ? "btn-neutral" : ""}`}
          aria-label={`Sheet ${n + 1} of ${count}`}
          aria-pressed={page === n}
          onClick={() => show(n)}
        >
          {n + 1}
        </button>
      ))}
      <button
        type="button"
        className={`btn btn-xs join-item ${page < 0 ? "btn-neutral" : ""}`}
        aria-pressed={page < 0}
        onClick={() => show(-1)}
      >
        All sheets
      </button>
    </div>
  );
}
