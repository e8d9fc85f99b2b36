import { useMutation } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { ask, client, queries } from "../api/client";
import { Dialog } from "../controls/Dialog";
import { Trouble } from "../controls/notices";

/** Asks before an assembly is removed for good. */
export function RemoveAssembly({
  id,
  name,
  gone,
  close,
}: {
  id: number;
  name: string;
  gone: () => void;
  close: () => void;
}) {
  const go = useNavigate();
  const remove = useMutation({
    mutationFn: () => ask(client.DELETE("/assemblies/{id}", { params: { path: { id } } })),
    onSuccess: () => {
      gone();
      void queries.invalidateQueries({ queryKey: ["assemblies"] });
      void go("/models");
    },
  });
  return (
    <Dialog label="Remove this assembly" close={close}>
      <p className="mb-3">
        {name} is removed with its joints. Your models, from which its parts were taken, stay.
      </p>
      {remove.error && <Trouble error={remove.error} />}
      <div className="flex gap-2">
        <button
          type="button"
          className="btn btn-sm btn-primary"
          disabled={remove.isPending}
          onClick={() => remove.mutate()}
        >
          Remove it
        </button>
        <button type="button" className="btn btn-sm" onClick={close}>
          Keep it
        </button>
      </div>
    </Dialog>
  );
}
