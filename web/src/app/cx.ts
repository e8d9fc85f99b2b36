/** Joins the names of classes; one whose condition does not hold is left out. */
export const cx = (...classes: (string | false | null | undefined)[]) =>
  classes.filter(Boolean).join(" ");
