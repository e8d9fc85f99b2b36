import { useEffect, useState } from "react";
import { Loading, Trouble } from "../controls/notices";
import { SheetPaper } from "../sheet/SheetView";
import type { SheetDraft } from "./useSheetDraft";

/** All sheets of the set as students have them, as they are now. */
export function AsStudentsSee({
  drawn,
  wholeSet,
  chosen,
  choose,
}: {
  drawn: SheetDraft;
  wholeSet: (d: SheetDraft) => Promise<{ svg: string }>;
  /** The characteristic that is picked. */
  chosen: string | null;
  choose: (id: string | null) => void;
}) {
  const [svg, setSvg] = useState<string | null>(null);
  const [error, setError] = useState<unknown>(null);
  useEffect(() => {
    let stale = false;
    wholeSet(drawn)
      .then((set) => !stale && setSvg(set.svg))
      .catch((e: unknown) => !stale && setError(e));
    return () => {
      stale = true;
    };
  }, [drawn, wholeSet]);
  return (
    <div className="min-h-0 flex-1">
      {svg ? (
        <SheetPaper svg={svg} chosen={chosen} choose={choose} />
      ) : error ? (
        <Trouble error={error} />
      ) : (
        <Loading what="the sheets" />
      )}
    </div>
  );
}
