/**
 * A field that is taken when it is left or with Enter; Escape puts back what was there, and so does
 * a text that is not taken.
 */
export function Entry({
  label,
  value,
  hint,
  className = "flex-1",
  take,
}: {
  label: string;
  value: string;
  hint?: string;
  className?: string;
  take: (text: string) => void | false;
}) {
  return (
    <input
      key={value}
      className={`input input-xs min-w-0 ${className}`}
      aria-label={label}
      placeholder={hint}
      defaultValue={value}
      spellCheck={false}
      onBlur={(e) => {
        const text = e.target.value.trim();
        if (text !== value && take(text) === false) e.target.value = value;
      }}
      onKeyDown={(e) => {
        if (e.key === "Escape") {
          e.currentTarget.value = value;
          e.stopPropagation();
        }
        if (e.key === "Enter" || e.key === "Escape") e.currentTarget.blur();
      }}
    />
  );
}
