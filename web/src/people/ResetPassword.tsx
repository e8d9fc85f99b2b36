import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { type Schemas, ask, client } from "../api/client";
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
      <button type="button" className="btn btn-xs" onClick={() => setSure(false)}>
        Cancel
      </button>
      {reset.error && <Trouble error={reset.error} />}
    </span>
  );
}
