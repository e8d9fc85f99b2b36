import { Link } from "react-router";
import { useMessages } from "./messages";

/** Leads to what one was told, with how much of it is not read. */
export function Bell() {
  const unread = useMessages().data?.unread ?? 0;
  const name = unread === 0 ? "Messages" : `Messages, ${unread} not read`;
  return (
    <Link
      to="/messages"
      className="btn btn-ghost btn-sm relative px-2"
      aria-label={name}
      title={name}
    >
      <svg viewBox="0 0 20 20" className="size-5" aria-hidden fill="none" stroke="currentColor">
        <path
          strokeWidth="1.4"
          d="M4 14h12c-1.2-1.2-1.6-2.6-1.6-5a4.4 4.4 0 0 0-8.8 0c0 2.4-.4 3.8-1.6 5z"
        />
        <path strokeWidth="1.4" d="M8.4 16.2a1.7 1.7 0 0 0 3.2 0M10 4.4V2.8" />
      </svg>
      {unread > 0 && (
        <span className="badge badge-xs badge-neutral absolute -top-0.5 -right-1">{unread}</span>
      )}
    </Link>
  );
}
