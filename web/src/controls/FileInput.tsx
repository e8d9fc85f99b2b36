import { type Ref, useRef } from "react";
import { Trouble } from "./notices";

interface Props {
  ref: Ref<HTMLInputElement>;
  /** Endings of the files that are taken. */
  accept: string;
  label: string;
  take: (file: File) => void;
}

/** Takes a file; what opens it stands elsewhere. The same file can be taken again. */
export function FileInput({ ref, accept, label, take }: Props) {
  return (
    <input
      ref={ref}
      type="file"
      accept={accept}
      className="hidden"
      aria-label={label}
      onChange={(e) => {
        const f = e.target.files?.[0];
        if (f) take(f);
        e.target.value = "";
      }}
    />
  );
}

interface ButtonProps extends Omit<Props, "ref"> {
  className: string;
  name: string;
  /** What the button says while the file is worked on. */
  busy: string;
  sending: { isPending: boolean; error: unknown };
}

/** A button that asks for a file and sends it. */
export function FileButton({ className, name, busy, sending, ...file }: ButtonProps) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <FileInput ref={input} {...file} />
      <button
        type="button"
        className={className}
        disabled={sending.isPending}
        onClick={() => input.current?.click()}
      >
        {sending.isPending ? busy : name}
      </button>
      {sending.error !== null && (
        <div className="toast toast-end z-20">
          <Trouble error={sending.error} />
        </div>
      )}
    </>
  );
}
