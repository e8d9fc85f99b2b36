import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { type Schemas, ask, client } from "../api/client";
import { useOutside } from "../telling/messages";
import { Trouble } from "../controls/notices";

/** A new first password for somebody; asked about first, since the old one ends with it. */
export function ResetPassword({
  id,
  name,
  give,
}: {
  id: number;
  name: string;
  give: (s: Schemas["Slip"]) => void;
}) {
  const [sure, setSure] = useState(false);
  const reset = useMutation({
    mutationFn: () => ask(client.POST("/users/{id}/password", { params: { path: { id } } })),
    onSuccess: (s) => {
      setSure(false);
      give(s);
    },
  });
  const goes = useOutside().data?.goes;
  const invite = useMutation({
    mutationFn: () => ask(client.POST("/users/{id}/invitation", { params: { path: { id } } })),
    onSuccess: () => setSure(false),
  });
  if (!sure && invite.isSuccess)
    return (
      <span role="status" className="text-sm">
        A link is on its way.
      </span>
    );
  if (!sure)
    return (
      <button
        type="button"
        className="btn btn-xs whitespace-nowrap"
        aria-label={`New password for ${name}`}
        onClick={() => setSure(true)}
      >
        New password
      </button>
    );
  return (
    <span className="flex flex-wrap items-center gap-1 text-sm">
      The old one ends.
      <button
        type="button"
        className="btn btn-primary btn-xs"
        disabled={reset.isPending}
        onClick={() => reset.mutate()}
      >
        {reset.isPending ? "Making one …" : "Give a new one"}
      </button>
      {goes && (
        <button
          type="button"
          className="btn btn-xs"
          disabled={invite.isPending}
          onClick={() => invite.mutate()}
        >
          Mail a link instead
        </button>
      )}
      <button type="button" className="btn btn-xs" onClick={() => setSure(false)}>
        Cancel
      </button>
      {(reset.error ?? invite.error) && <Trouble error={reset.error ?? invite.error} />}
    </span>
  );
}
