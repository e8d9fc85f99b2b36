import { Panel } from "../controls/notices";
import type { Command, Frame } from "./useFitting";

/** What is to be remembered of the assembly: it goes with its document. */
export function Note({ frame, act }: { frame: Frame; act: (c: Command) => void }) {
  const note = frame.note ?? "";
  return (
    <Panel title="Note">
      <textarea
        key={note}
        className="textarea textarea-xs m-2 w-[calc(100%-1rem)]"
        aria-label="Note on the assembly"
        rows={2}
        maxLength={4000}
        placeholder="What is to be remembered of it"
        defaultValue={note}
        onBlur={(e) => {
          const text = e.target.value.trim();
          if (text !== note) act({ do: "note", name: text });
        }}
      />
    </Panel>
  );
}
