/** What the students of an issue are told when its sheet changes. */
export function Words({ text, say }: { text: string; say: (text: string) => void }) {
  return (
    <label className="flex flex-col gap-1 text-sm">
      What the students are told
      <textarea
        className="textarea textarea-sm w-full"
        rows={2}
        maxLength={1000}
        placeholder="The sheet was changed. Look at it again before you hand in."
        value={text}
        onChange={(e) => {
          say(e.target.value);
        }}
      />
      <span className="text-xs">
        It stands above the task, with the next revision index of the sheet.
      </span>
    </label>
  );
}
