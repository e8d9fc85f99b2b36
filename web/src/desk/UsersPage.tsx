import { useMutation, useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { type Schemas, ask, client, queries } from "../api/client";
import { useKept } from "../app/keep";
import { useTitle } from "../app/place";
import { Loading, Panel, PageTrouble, Trouble } from "../controls/notices";
import { ResetPassword } from "../people/ResetPassword";
import { Slips } from "../people/Slips";
import { Table } from "../controls/Table";
import { Field } from "../controls/Field";

/** What an account by itself is for; what somebody is to a class is said there. */
const kinds = {
  instructor: { teaches: true, administrator: false },
  administrator: { teaches: true, administrator: true },
  "student or assistant": { teaches: false, administrator: false },
} as const;
type Kind = keyof typeof kinds;

function kindOf(u: Schemas["Account"]): string {
  if (u.administrator) return "administrator";
  return u.teaches ? "instructor" : "";
}

function NewAccount({ give }: { give: (s: Schemas["Slip"]) => void }) {
  const empty = { name: "", login: "", kind: "instructor" as Kind };
  const { value: u, set, drop } = useKept("new-account", empty);
  const add = useMutation({
    mutationFn: () =>
      ask(client.POST("/users", { body: { name: u.name, login: u.login, ...kinds[u.kind] } })),
    onSuccess: (s) => {
      drop(empty);
      give(s);
      void queries.invalidateQueries({ queryKey: ["users"] });
    },
  });
  const submit = (e: FormEvent) => {
    e.preventDefault();
    add.mutate();
  };
  return (
    <form onSubmit={submit} className="flex flex-wrap items-end gap-2 px-4 py-3 text-sm">
      <Field label="Name" className="min-w-40 flex-1">
        <input
          className="input input-sm w-full"
          required
          maxLength={100}
          value={u.name}
          onChange={(e) => set({ ...u, name: e.target.value })}
        />
      </Field>
      <Field label="Login" className="w-36">
        <input
          className="input input-sm w-full"
          required
          maxLength={60}
          value={u.login}
          onChange={(e) => set({ ...u, login: e.target.value })}
          spellCheck={false}
          autoCapitalize="none"
        />
      </Field>
      <Field label="For">
        <select
          className="select select-sm w-44"
          value={u.kind}
          onChange={(e) => set({ ...u, kind: e.target.value as Kind })}
        >
          {Object.keys(kinds).map((r) => (
            <option key={r}>{r}</option>
          ))}
        </select>
      </Field>
      <button type="submit" className="btn btn-primary btn-sm" disabled={add.isPending}>
        {add.isPending ? "Making …" : "Make the account"}
      </button>
      {add.error && <Trouble error={add.error} />}
    </form>
  );
}

/** Deletes a student for good: what was handed in stays with its marks under no name. */
function Forget({ account }: { account: Schemas["Account"] }) {
  const [sure, setSure] = useState(false);
  const forget = useMutation({
    mutationFn: () => ask(client.DELETE("/users/{id}", { params: { path: { id: account.id } } })),
    onSuccess: () => {
      setSure(false);
      void queries.invalidateQueries({ queryKey: ["users"] });
    },
  });
  if (!sure)
    return (
      <button
        type="button"
        className="btn btn-xs"
        aria-label={`Delete ${account.name}`}
        onClick={() => setSure(true)}
      >
        Delete
      </button>
    );
  return (
    <span className="flex flex-wrap items-center gap-1 text-sm">
      The name goes for good; marks stay nameless.
      <button
        type="button"
        className="btn btn-primary btn-xs"
        disabled={forget.isPending}
        onClick={() => forget.mutate()}
      >
        Delete for good
      </button>
      <button type="button" className="btn btn-xs" onClick={() => setSure(false)}>
        Cancel
      </button>
      {forget.error && <Trouble error={forget.error} />}
    </span>
  );
}

/** Ends an account, or brings it back. */
function EndAccount({ account }: { account: Schemas["Account"] }) {
  const [sure, setSure] = useState(false);
  const end = useMutation({
    mutationFn: (ended: boolean) =>
      ask(
        client.PUT("/users/{id}/ended", { params: { path: { id: account.id } }, body: { ended } }),
      ),
    onSuccess: () => {
      setSure(false);
      void queries.invalidateQueries({ queryKey: ["users"] });
    },
  });
  if (account.ended)
    return (
      <span className="flex flex-wrap items-center gap-1">
        <button
          type="button"
          className="btn btn-xs whitespace-nowrap"
          aria-label={`Ended: bring back the account of ${account.name}`}
          onClick={() => end.mutate(false)}
        >
          Ended: bring back
        </button>
        {!account.administrator && !account.teaches && <Forget account={account} />}
      </span>
    );
  if (!sure)
    return (
      <button
        type="button"
        className="btn btn-xs"
        aria-label={`End the account of ${account.name}`}
        onClick={() => setSure(true)}
      >
        End
      </button>
    );
  return (
    <span className="flex flex-wrap items-center gap-1 text-sm">
      Nobody signs in with it any more; all work stays.
      <button
        type="button"
        className="btn btn-primary btn-xs"
        disabled={end.isPending}
        onClick={() => end.mutate(true)}
      >
        End it
      </button>
      <button type="button" className="btn btn-xs" onClick={() => setSure(false)}>
        Cancel
      </button>
      {end.error && <Trouble error={end.error} />}
    </span>
  );
}

/** All accounts, for the administrator. */
export function Users() {
  useTitle("Accounts");
  const [slips, setSlips] = useState<Schemas["Slip"][]>([]);
  const [find, setFind] = useState("");
  const q = useQuery({ queryKey: ["users"], queryFn: () => ask(client.GET("/users")) });
  if (q.isPending) return <Loading what="the accounts" />;
  if (!q.data) return <PageTrouble error={q.error} retry={() => void q.refetch()} />;
  const give = (s: Schemas["Slip"]) =>
    setSlips((old) => [...old.filter((x) => x.login !== s.login), s]);
  const rows = q.data.filter((u) =>
    [u.name, u.login, kindOf(u), ...u.classes].join(" ").toLowerCase().includes(find.toLowerCase()),
  );
  return (
    <div className="mx-auto flex max-w-4xl flex-col gap-4 p-4">
      <h1>Accounts</h1>
      {slips.length > 0 && <Slips slips={slips} done={() => setSlips([])} />}
      <Panel title="A new account">
        <NewAccount give={give} />
      </Panel>
      <Panel
        title="All accounts"
        side={
          <span className="flex items-center gap-2 text-sm">
            <input
              type="search"
              className="input input-xs w-40"
              aria-label="Find an account"
              placeholder="find"
              value={find}
              onChange={(e) => setFind(e.target.value)}
            />
            {rows.length} of {q.data.length}
          </span>
        }
      >
        <Table size="sm">
          <thead>
            <tr>
              <th>Name</th>
              <th>Login</th>
              <th>What they are</th>
              <th>Password</th>
              <th>Account</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((u) => (
              <tr key={u.id}>
                <td>{u.name}</td>
                <td className="font-mono">{u.login}</td>
                <td>{[kindOf(u), ...u.classes].filter(Boolean).join("; ") || "in no class"}</td>
                <td>{!u.ended && <ResetPassword id={u.id} name={u.name} give={give} />}</td>
                <td>
                  <EndAccount account={u} />
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
      </Panel>
    </div>
  );
}
