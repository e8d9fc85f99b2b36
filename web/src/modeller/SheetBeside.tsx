import { useMutation, useQuery } from "@tanstack/react-query";
import { Problem, ask, client, queries } from "../api/client";
import { TickedSheet } from "../sheet/TickedSheet";

/**
 * The sheet that a model is made after. Where an exercise gives its results at once, what the
 * model has is ticked when one asks for it.
 */
export function SheetBeside({ model, url }: { model: number; url: string }) {
  const key = ["model", model, "had"];
  const look = useQuery({
    queryKey: key,
    queryFn: () => ask(client.GET("/models/{id}/had", { params: { path: { id: model } } })),
    retry: false,
  }).data;
  const again = useMutation({
    mutationFn: () => ask(client.POST("/models/{id}/had", { params: { path: { id: model } } })),
    onSuccess: (l) => queries.setQueryData(key, l),
  });
  return (
    <TickedSheet store={`ticks-${model}`} url={url} had={look?.had}>
      {look?.may && (
        <p className="bg-base-100/90 px-1">
          <button
            type="button"
            className="btn btn-xs"
            disabled={again.isPending || look.left === 0}
            onClick={() => again.mutate()}
          >
            {again.isPending ? "Looking …" : "What have I got?"}
          </button>{" "}
          {look.left === 0
            ? "no look left today"
            : `${look.left} ${look.left === 1 ? "look" : "looks"} left today`}
          {again.error instanceof Problem && ` (${again.error.what})`}
        </p>
      )}
    </TickedSheet>
  );
}
