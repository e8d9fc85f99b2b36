import { Dialog } from "../controls/Dialog";

/** Asks before an exercise is made of an assembly in which parts are joined to nothing. */
export function BeginExercise({
  loose,
  read,
  begin,
  close,
}: {
  /** How many parts no joint holds. */
  loose: number;
  read: () => void;
  begin: () => void;
  close: () => void;
}) {
  const chosen = (run: () => void) => () => {
    close();
    run();
  };
  return (
    <Dialog label="No joint holds all of it" close={close}>
      <p className="mb-2">
        {loose === 1 ? "One part is" : `${loose} parts are`} joined to nothing. In an exercise what
        is nested is laid flat, so that nothing but joints says where a part has its place: what is
        joined to nothing is not checked for it.
      </p>
      <p className="mb-3">
        Joints can be read from where the parts touch. You look at them and confirm them here, and
        make the exercise then.
      </p>
      <div className="flex gap-2">
        <button type="button" className="btn btn-sm btn-primary" onClick={chosen(read)}>
          Read the joints first
        </button>
        <button type="button" className="btn btn-sm" onClick={chosen(begin)}>
          Make it all the same
        </button>
      </div>
    </Dialog>
  );
}
