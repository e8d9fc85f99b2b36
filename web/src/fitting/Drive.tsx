import { useRef, useState } from "react";
import { useChanged } from "../app/useChanged";
import type { Fitting, Frame, Moving } from "./useFitting";

type Row = Frame["joints"][number];

/** A joint driven by a slider: the mechanism follows as far as it can. */
export function Drive({
  row,
  range,
  fitting,
}: {
  row: Row;
  range: NonNullable<Row["drive"]>;
  fitting: Fitting;
}) {
  const [at, setAt] = useState(range.at);
  const [told, setTold] = useState<Moving | null>(null);
  if (useChanged(range.at)) {
    setAt(range.at);
    setTold(null);
  }
  const moved = useRef(false);
  const keep = () => {
    if (!moved.current) return;
    moved.current = false;
    void fitting.release(true);
  };
  return (
    <div className="flex items-center gap-2 py-1">
      <input
        type="range"
        className="range range-xs flex-1"
        aria-label={`Drive ${row.title}`}
        min={range.least}
        max={range.most}
        step="any"
        value={at}
        onChange={(e) => {
          const value = Number(e.target.value);
          setAt(value);
          moved.current = true;
          fitting.drive(row.joint.id, value, setTold);
        }}
        onPointerUp={keep}
        onKeyUp={keep}
        onBlur={keep}
      />
      <span className="w-28 text-right text-xs" role="status">
        {(told?.value ?? range.at).toFixed(1)}
        {range.unit === "°" ? "°" : ` ${range.unit}`}
        {told?.stopped && ", it stops here"}
      </span>
    </div>
  );
}
