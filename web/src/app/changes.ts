import { useEffect } from "react";
import { queries } from "../api/client";
import { listenTo } from "./events";

/**
 * How often a list asks of itself, in milliseconds: what no event tells, such as that a due date
 * has passed.
 */
export const slowly = 60_000;

/** The queries of lists that the server tells about. */
const lists = new Set<unknown>(["desk", "home", "issue"]);

const fetchAnew = () =>
  void queries.invalidateQueries({ predicate: (q) => lists.has(q.queryKey[0]) });

/**
 * Fetches the lists of a page anew when the server says that something in them has changed. A page
 * that nobody sees does not listen: a browser has only a few lines to one server.
 */
export function useChanges() {
  useEffect(() => {
    let stop: (() => void) | undefined;
    const look = () => {
      if (document.hidden) {
        stop?.();
        stop = undefined;
      } else if (!stop) stop = listenTo("/api/events", { changed: fetchAnew }, fetchAnew);
    };
    const again = () => {
      look();
      if (!document.hidden) fetchAnew();
    };
    look();
    document.addEventListener("visibilitychange", again);
    return () => {
      document.removeEventListener("visibilitychange", again);
      stop?.();
    };
  }, []);
}
