import { type ComponentType, Suspense, lazy, useState } from "react";
import { Loading } from "../controls/notices";

/**
 * A page that is fetched when it is first shown, or before, when one comes near it: then it is
 * shown at once. What is still being fetched is shown a third of a second later at the soonest,
 * since React lets what says so stand that long.
 */
export function soon<P extends object>(what: string, load: () => Promise<ComponentType<P>>) {
  let there: ComponentType<P> | null = null;
  const fetched = () => load().then((page) => (there = page));
  const Later = lazy(() => fetched().then((page) => ({ default: page })));
  function Page(props: P) {
    const [Shown] = useState(() => there);
    return Shown ? (
      <Shown {...props} />
    ) : (
      <Suspense fallback={<Loading what={what} />}>
        <Later {...props} />
      </Suspense>
    );
  }
  return { Page, comeNear: () => void fetched() };
}
