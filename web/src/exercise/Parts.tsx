import { useMutation } from "@tanstack/react-query";
import { Link, useNavigate } from "react-router";
import { type Schemas, ask, client, queries } from "../api/client";
import { Panel, Trouble } from "../controls/notices";

type Exercise = Schemas["Exercise"];

/**
 * The exercises of the parts of an assembly, each to be taken out and worked on by itself; and of
 * one that was, how it goes back.
 */
export function PartsPanel({ exercise }: { exercise: Exercise }) {
  if (exercise.takenFrom) return <Back id={exercise.id} from={exercise.takenFrom} />;
  return exercise.parts.length > 0 && exercise.mayUse ? <Parts exercise={exercise} /> : null;
}

function useMade(path: (e: Exercise) => string) {
  const go = useNavigate();
  return (e: Exercise) => {
    void queries.invalidateQueries();
    void go(path(e));
  };
}

function Parts({ exercise }: { exercise: Exercise }) {
  const onSuccess = useMade((e) => `/exercises/${e.id}`);
  const out = useMutation({
    mutationFn: (part: string) =>
      ask(
        client.POST("/exercises/{id}/parts/{part}", {
          params: { path: { id: exercise.id, part } },
        }),
      ),
    onSuccess,
  });
  return (
    <Panel title="Exercises of the parts">
      <div className="flex flex-col gap-2 px-4 py-3 text-sm">
        <p>
          Taken out, the exercise of a part is one by itself: to be laid out and edited and then put
          back, or to be issued alone.
        </p>
        <ul className="flex flex-col gap-1">
          {exercise.parts.map(({ part, number, name }) => (
            <li key={part} className="flex items-center gap-2">
              <span className="mr-auto">{name ? `${number} ${name}` : `Item ${number}`}</span>
              <button
                type="button"
                className="btn btn-xs"
                aria-label={`Take out the exercise of ${name || `item ${number}`}`}
                disabled={out.isPending}
                onClick={() => out.mutate(part)}
              >
                {out.isPending && out.variables === part ? "Drawing its sheet …" : "Take out"}
              </button>
            </li>
          ))}
        </ul>
        {out.error && <Trouble error={out.error} />}
      </div>
    </Panel>
  );
}

function Back({ id, from }: { id: number; from: number }) {
  const onSuccess = useMade((e) => `/exercises/${e.id}`);
  const back = useMutation({
    mutationFn: () => ask(client.POST("/exercises/{id}/back", { params: { path: { id } } })),
    onSuccess,
  });
  return (
    <Panel title="Taken out of an assembly">
      <div className="flex flex-col gap-2 px-4 py-3 text-sm">
        <p>
          This was taken out of{" "}
          <Link className="link" to={`/exercises/${from}`}>
            the exercise of an assembly
          </Link>
          . Put back, its newest version takes the place of the part’s exercise there, as a new
          version; this one is archived.
        </p>
        <button
          type="button"
          className="btn btn-sm self-start"
          disabled={back.isPending}
          onClick={() => back.mutate()}
        >
          {back.isPending ? "Drawing the sheets …" : "Put it back"}
        </button>
        {back.error && <Trouble error={back.error} />}
      </div>
    </Panel>
  );
}
