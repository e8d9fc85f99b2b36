/** A field for points or percent. */
export function Points({
  label,
  value,
  most,
  set,
}: {
  label: string;
  value: number;
  most: number;
  set: (v: number) => void;
}) {
  return (
    <input
      type="number"
      aria-label={label}
      className="input input-xs w-20 text-right"
      min={0}
      max={most}
      step="any"
      value={value}
      onChange={(e) => set(Number(e.target.value))}
    />
  );
}
