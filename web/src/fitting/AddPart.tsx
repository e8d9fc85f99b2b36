import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { type Me, type Schemas, ask, client } from "../api/client";
import { Dialog } from "../controls/Dialog";
import { Field } from "../controls/Field";
import { FileButton } from "../controls/FileInput";
import { Loading, Trouble } from "../controls/notices";
import { useModels } from "../model/models";
import { ExercisePart } from "./ExercisePart";
import { StockPart } from "./StockPart";
import { inText, useAssemblies } from "./assemblies";
import { teaches } from "../session/session";

type Made = Schemas["MadePart"];

/**
 * Puts a part in: one of one's own models, or a STEP file; of several solids all of them. It has
 * its name before it goes in. In place of a component that is there, it keeps that one's name.
 */
export function AddPart({
  id,
  me,
  instead,
  close,
  put,
}: {
  id: number;
  me: Me;
  instead?: string | undefined;
  close: () => void;
  put: (made: Made[], name: string, count: number) => Promise<void>;
}) {
  const models = useModels();
  const others = useAssemblies().data?.filter((a) => a.id !== id) ?? [];
  const [name, setName] = useState("");
  const [count, setCount] = useState(1);
  const send = useMutation({
    mutationFn: (body: Schemas["NewPart"]) =>
      ask(client.POST("/assemblies/{id}/parts", { params: { path: { id } }, body })),
    onSuccess: (made) => put(made, name.trim(), count),
  });
  return (
    <Dialog label={instead ? `Replace ${instead}` : "Put in a part"} close={close}>
      <div className="flex flex-col gap-3 text-sm">
        {instead ? (
          <p>
            Choose the part that takes the place of {instead}. Its joints stay where the new part
            has faces and edges of the same names; the others are told.
          </p>
        ) : (
          <div className="flex items-end gap-2">
            <div className="flex-1">
              <Field label="What it is called in this assembly (else as its model)">
                <input
                  className="input input-sm w-full"
                  value={name}
                  maxLength={150}
                  onChange={(e) => setName(e.target.value)}
                />
              </Field>
            </div>
            <Field label="How many">
              <input
                type="number"
                className="input input-sm w-20"
                min={1}
                max={50}
                value={count}
                onChange={(e) => setCount(Number(e.target.value))}
              />
            </Field>
          </div>
        )}
        {models.isPending ? (
          <Loading what="your models" />
        ) : (
          <div className="max-h-64 overflow-auto border border-base-300">
            {models.data?.length === 0 && (
              <p className="p-3">
                You have no models yet. Take a STEP file, or model a part first.
              </p>
            )}
            {models.data?.map((m) => (
              <button
                key={m.id}
                type="button"
                className="block w-full px-3 py-1.5 text-left hover:bg-base-200"
                disabled={send.isPending}
                onClick={() => send.mutate({ modelId: m.id })}
              >
                {m.name}
              </button>
            ))}
            {others.map((a) => (
              <button
                key={`assembly ${a.id}`}
                type="button"
                className="block w-full px-3 py-1.5 text-left hover:bg-base-200"
                disabled={send.isPending}
                onClick={() => send.mutate({ assemblyId: a.id })}
              >
                {a.name} <span className="text-xs opacity-80">assembly</span>
              </button>
            ))}
          </div>
        )}
        {teaches(me) && (
          <ExercisePart busy={send.isPending} put={(exerciseId) => send.mutate({ exerciseId })} />
        )}
        <StockPart busy={send.isPending} put={(stock) => send.mutate({ stock })} />
        <div className="flex items-center gap-2">
          <FileButton
            className="btn btn-sm"
            name="A STEP file, a model document or a bundle …"
            busy="Reading …"
            label="File of a part"
            accept=".step,.stp,.json,.zip"
            sending={{ isPending: send.isPending, error: null }}
            take={(f) =>
              void f.arrayBuffer().then((b) => send.mutate({ name: f.name, file: inText(b) }))
            }
          />
          {send.isPending && <span role="status">The part is being made …</span>}
        </div>
        {send.error && <Trouble error={send.error} />}
      </div>
    </Dialog>
  );
}
