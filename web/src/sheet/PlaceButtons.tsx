/** Nearer, farther, and the whole sheet. */
export function PlaceButtons({ zoom, all }: { zoom: (factor: number) => void; all: () => void }) {
  return (
    <div className="join absolute bottom-2 left-2">
      <button
        type="button"
        className="btn btn-xs join-item"
        onClick={() => zoom(1.25)}
        aria-label="Larger"
      >
        +
      </button>
      <button
        type="button"
        className="btn btn-xs join-item"
        onClick={() => zoom(0.8)}
        aria-label="Smaller"
      >
        −
      </button>
      <button type="button" className="btn btn-xs join-item" onClick={all}>
        Whole sheet
      </button>
    </div>
  );
}
