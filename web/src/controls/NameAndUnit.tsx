import { unitWords } from "../app/format";
import { Field } from "./Field";

export type Unit = keyof typeof unitWords;

/** Asks for name and unit, since both are noticed late when they are wrong. */
export function NameAndUnit({
  label,
  name,
  setName,
  unit,
  setUnit,
}: {
  label: string;
  name: string;
  setName: (name: string) => void;
  unit: Unit;
  setUnit: (unit: Unit) => void;
}) {
  return (
    <>
      <Field label={label} className="min-w-32 flex-1">
        <input
          className="input input-sm w-full"
          value={name}
          onChange={(e) => setName(e.target.value)}
          required
          maxLength={150}
        />
      </Field>
      <Field label="Unit">
        <select
          className="select select-sm w-32"
          value={unit}
          onChange={(e) => setUnit(e.target.value as Unit)}
        >
          {Object.entries(unitWords).map(([u, word]) => (
            <option key={u} value={u}>
              {word}
            </option>
          ))}
        </select>
      </Field>
    </>
  );
}
