import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client } from "../api/client";

/** Chooses the reference of an exercise. */
export function ExercisePart({ busy, put }: { busy: boolean; put: (exercise: number) => void }) {
  const exercises = useQuery({
    queryKey: ["exercises"],
    queryFn: () => ask(client.GET("/exercises")),
  }).data?.filter((e) => e.mine || e.may);
  const [id, setId] = useState(0);
  const chosen = exercises?.find((e) => e.id === id) ?? exercises?.[0];
  if (!chosen) return null;
  return (
    <form
      className="flex flex-wrap items-center gap-2"
      aria-label="Reference of an exercise"
      onSubmit={(e) => {
        e.preventDefault();
        put(chosen.id);
      }}
    >
      <select
        className="select select-sm w-60"
        aria-label="Exercise"
        value={chosen.id}
        onChange={(e) => setId(Number(e.target.value))}
      >
        {exercises?.map((e) => (
          <option key={e.id} value={e.id}>
            {e.title}, {e.number}
          </option>
        ))}
      </select>
      <button type="submit" className="btn btn-sm" disabled={busy}>
        Put in its reference
      </button>
    </form>
  );
}
