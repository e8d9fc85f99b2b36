import type { components } from "../api/schema";

type Tolerance = components["schemas"]["Tolerance"];

/** What each kind of tolerance begins with. */
const begins: Record<string, Tolerance> = {
  sheet: { kind: "sheet" },
  iso2768: { kind: "iso2768", class: "m" },
  iso286: { kind: "iso286", class: "H7" },
  limits: { kind: "limits", plus: "0.1", minus: "0.1" },
};

interface Props {
  tolerance?: Tolerance;
  change: (t: Tolerance | undefined) => void;
  /** It is that of the whole sheet. */
  whole?: boolean;
}

/** The tolerance of one size, and how the sheet prints it. */
export function ToleranceFields({ tolerance, change, whole = false }: Props) {
  const kind = tolerance?.kind ?? "";
  return (
    <>
      <select
        className="select select-xs flex-1"
        aria-label={whole ? "General tolerance" : "Tolerance"}
        value={kind}
        onChange={(e) => {
          change(begins[e.target.value]);
        }}
      >
        {!whole && <option value="">as for the whole sheet</option>}
        <option value="sheet">the sheet's own rounding</option>
        <option value="iso2768">ISO 2768-1 class</option>
        {!whole && <option value="iso286">ISO 286 fit</option>}
        <option value="limits">deviations</option>
      </select>
      {tolerance && (kind === "iso2768" || kind === "iso286") && (
        <input
          className="input input-xs w-16"
          aria-label="Class"
          value={tolerance.class ?? ""}
          onChange={(e) => {
            change({ ...tolerance, class: e.target.value });
          }}
        />
      )}
      {tolerance && kind === "limits" && (
        <>
          +
          <input
            className="input input-xs w-16"
            aria-label="Above"
            value={tolerance.plus ?? ""}
            onChange={(e) => {
              change({ ...tolerance, plus: e.target.value });
            }}
          />
          −
          <input
            className="input input-xs w-16"
            aria-label="Below"
            value={tolerance.minus ?? ""}
            onChange={(e) => {
              change({ ...tolerance, minus: e.target.value });
            }}
          />
        </>
      )}
      {tolerance && (kind === "iso286" || kind === "limits") && (
        <select
          className="select select-xs w-full"
          aria-label="Printed as"
          value={tolerance.printed ?? ""}
          onChange={(e) => {
            change({ ...tolerance, printed: e.target.value || undefined });
          }}
        >
          <option value="">
            {kind === "iso286" ? "printed as the class" : "printed as deviations"}
          </option>
          {kind === "iso286" && (
            <option value="deviations">printed as the class with deviations</option>
          )}
          <option value="limits">printed as largest and smallest size</option>
        </select>
      )}
    </>
  );
}
