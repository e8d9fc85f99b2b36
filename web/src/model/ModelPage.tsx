import { useMutation, useQuery } from "@tanstack/react-query";
import { type FormEvent, Suspense, lazy, useMemo, useRef, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { type AttemptRow, type Me, type Schemas, ask, client, queries, sendFile } from "../api/client";
import { distance } from "../app/format";
import { Empty, Loading, Panel, Trouble } from "../app/states";
import { type ModelDocument, documentOf } from "./models";

const PartView = lazy(() => import("../part/PartView").then((m) => ({ default: m.PartView })));

type Model = Schemas["Model"];

/** Saves another document into the model. */
function useReplace(model: Model) {
  return useMutation({
    mutationFn: (d: ModelDocument) => ask(client.PUT("/models/{id}", { params: { path: { id: model.row.id } }, body: { version: model.row.version, document: d as unknown as Model["document"] } })),
    onSettled: () => queries.invalidateQueries({ queryKey: ["model", model.row.id] }),
  });
}

function AddSketch({ model }: { model: Model }) {
  const d = documentOf(model);
  const [name, setName] = useState("");
  const [plane, setPlane] = useState("XY");
  const put = useReplace(model);
  const go = useNavigate();
  const submit = (e: FormEvent) => {
    e.preventDefault();
    let n = 1;
    while (d.steps.some((s) => s.id === `s${n}`)) n++;
    put.mutate({ ...d, steps: [...d.steps, { id: `s${n}`, kind: "sketch", name, plane: { datum: plane }, entities: [], constraints: [] }] }, { onSuccess: () => void go(`/models/${model.row.id}/sketches/s${n}`) });
  };
  return (
    <form onSubmit={submit} className="flex flex-wrap items-end gap-2 border-t border-base-300 px-4 py-3 text-sm">
      <label className="flex flex-1 flex-col gap-1">Name of a new sketch<input className="input input-sm w-full" value={name} placeholder="outline" onChange={(e) => setName(e.target.value)} required maxLength={100} /></label>
      <label className="flex flex-col gap-1">Plane<select className="select select-sm w-36" value={plane} onChange={(e) => setPlane(e.target.value)}><option value="XY">XY, from above</option><option value="XZ">XZ, from the front</option><option value="YZ">YZ, from the right</option></select></label>
      <button type="submit" className="btn btn-primary btn-sm" disabled={put.isPending}>Draw it</button>
      {put.error && <Trouble error={put.error} />}
    </form>
  );
}

function Bring({ model }: { model: Model }) {
  const input = useRef<HTMLInputElement>(null);
  const [error, setError] = useState<unknown>(null);
  const put = useReplace(model);
  const read = async (f: File) => {
    setError(null);
    try {
      put.mutate(JSON.parse(await f.text()) as ModelDocument);
    } catch {
      setError(Object.assign(new Error(), { message: "not JSON" }));
    }
  };
  return (
    <>
      <input ref={input} type="file" accept=".json" className="hidden" aria-label="Model document" onChange={(e) => { const f = e.target.files?.[0]; if (f) void read(f); e.target.value = ""; }} />
      <button type="button" className="btn btn-xs" disabled={put.isPending} onClick={() => input.current?.click()}>Bring in a model document</button>
      {error !== null && <span role="alert" className="text-sm">This file is not readable as JSON; choose a model document.</span>}
      {put.error && <Trouble error={put.error} />}
    </>
  );
}

function HandInModel({ model }: { model: Model }) {
  const go = useNavigate();
  const send = useMutation({
    mutationFn: () => sendFile<AttemptRow>(`/api/issues/${model.row.issueId}/attempts`, new File([JSON.stringify(model.document)], `${model.row.name}.json`, { type: "application/vnd.hammerset.model+json" }), () => undefined).done,
    onSuccess: (a) => {
      void queries.invalidateQueries();
      void go(`/attempts/${a.id}`);
    },
  });
  return (
    <div className="px-4 py-3 text-sm">
      <p>The model goes in as it is saved now; you can go on working on it.</p>
      <button type="button" className="btn btn-primary btn-sm mt-2" disabled={send.isPending} onClick={() => send.mutate()}>{send.isPending ? "Handing in …" : "Hand in this model"}</button>
      {send.error && <Trouble error={send.error} />}
    </div>
  );
}

function Promote({ model }: { model: Model }) {
  const go = useNavigate();
  const take = useMutation({ mutationFn: () => ask(client.POST("/models/{id}/promote", { params: { path: { id: model.row.id } } })), onSuccess: (e) => { void queries.invalidateQueries(); void go(`/exercises/${e.id}`); } });
  return (
    <div className="px-4 py-3 text-sm">
      <p>Makes a new version of the exercise with this model as its reference. What is issued already stays with the version that it was issued from.</p>
      <button type="button" className="btn btn-sm mt-2" disabled={take.isPending} onClick={() => take.mutate()}>{take.isPending ? "Drawing its sheet …" : "Make it the reference"}</button>
      {take.error && <Trouble error={take.error} />}
    </div>
  );
}

/** A model: its steps with their state, its solid, and its sketches to open. */
export function ModelPage({ me }: { me: Me }) {
  const id = Number(useParams().id);
  const go = useNavigate();
  const model = useQuery({ queryKey: ["model", id], queryFn: () => ask(client.GET("/models/{id}", { params: { path: { id } } })) });
  const version = model.data?.row.version;
  const part = useQuery({ queryKey: ["model", id, "part", version], queryFn: () => ask(client.GET("/models/{id}/part", { params: { path: { id } } })), enabled: version !== undefined });
  const remove = useMutation({ mutationFn: () => ask(client.DELETE("/models/{id}", { params: { path: { id } } })), onSuccess: () => { void queries.invalidateQueries({ queryKey: ["models"] }); void go("/models"); } });
  const [sure, setSure] = useState(false);
  const mesh = part.data?.mesh;
  const shown = useMemo(() => (mesh ? [{ key: "attempt" as const, label: "Model", mesh, faces: [] }] : []), [mesh]);
  if (model.isPending) return <Loading what="the model" />;
  if (model.error) return <div className="p-6"><Trouble error={model.error} retry={() => void model.refetch()} /></div>;
  const { row } = model.data;
  const d = documentOf(model.data);
  const state = new Map(part.data?.steps.map((s) => [s.id, s]));
  const file = `data:application/vnd.hammerset.model+json;charset=utf-8,${encodeURIComponent(JSON.stringify(d, null, 1))}`;
  return (
    <div className="mx-auto grid max-w-7xl gap-4 p-4 lg:grid-cols-[1fr_26rem]">
      <div className="flex flex-col gap-4">
        <div className="flex flex-wrap items-center gap-2">
          <h1 className="mr-auto">{row.name} <span className="text-base font-normal">in {d.unit}, saved {distance(row.saved)}</span></h1>
          {row.issueId && <Link className="btn btn-xs" to={`/issues/${row.issueId}`}>Its exercise</Link>}
          {row.exerciseId && <Link className="btn btn-xs" to={`/exercises/${row.exerciseId}`}>Its exercise</Link>}
          <a className="btn btn-xs" href={file} download={`${row.name}.json`}>Model document</a>
          <Bring model={model.data} />
        </div>
        <Panel title="Steps">
          {d.steps.length === 0 ? <Empty>No step yet. A part begins with a sketch: choose the plane so that the pictorial view comes out as on the sheet.</Empty> : (
            <table className="table table-sm"><thead><tr><th>Step</th><th>Kind</th><th>State</th><th /></tr></thead>
              <tbody>{d.steps.map((s) => {
                const now = state.get(s.id);
                return <tr key={s.id}><td>{s.name || s.id}</td><td>{s.kind.replaceAll("-", " ")}</td><td className={now?.failed ? "font-semibold text-primary" : ""}>{now ? now.message || "stands" : part.isPending ? "…" : "–"}</td><td>{s.kind === "sketch" && <Link className="btn btn-xs" to={`/models/${id}/sketches/${s.id}`}>Open the sketch</Link>}</td></tr>;
              })}</tbody></table>
          )}
          <AddSketch model={model.data} />
        </Panel>
        {part.error && <Trouble error={part.error} retry={() => void part.refetch()} />}
      </div>
      <div className="flex flex-col gap-4">
        {mesh && <Panel title="Solid"><div className="h-72"><Suspense fallback={<Loading what="the solid" />}><PartView shown={shown} /></Suspense></div></Panel>}
        {d.parameters.length > 0 && <Panel title="Parameters"><table className="table table-xs"><tbody>{d.parameters.map((p) => <tr key={p.name}><td className="font-semibold">{p.name}</td><td>{p.value}</td><td>{part.data?.parameters.find((v) => v.name === p.name)?.text}</td></tr>)}</tbody></table></Panel>}
        {row.issueId && me.role === "student" && <Panel title="Hand in"><HandInModel model={model.data} /></Panel>}
        {row.exerciseId && (me.role === "instructor" || me.role === "administrator") && <Panel title="Reference"><Promote model={model.data} /></Panel>}
        <Panel title="Remove">
          <div className="px-4 py-3 text-sm">{sure ? <><p>The model is gone then; what was handed in from it stays.</p><button type="button" className="btn btn-sm mt-2" disabled={remove.isPending} onClick={() => remove.mutate()}>Remove it for good</button> <button type="button" className="btn btn-sm mt-2" onClick={() => setSure(false)}>Keep it</button></> : <button type="button" className="btn btn-sm" onClick={() => setSure(true)}>Remove this model</button>}{remove.error && <Trouble error={remove.error} />}</div>
        </Panel>
      </div>
    </div>
  );
}
