import { useMutation, useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { type Schemas, ask, client, queries } from "../api/client";
import { useKept } from "../app/keep";
import { useTitle } from "../app/place";
import { Loading, Panel, Trouble } from "../controls/notices";
import { ResetPassword } from "../people/ResetPassword";
import { Slips } from "../people/Slips";
import { Table } from "../controls/Table";
import { Field } from "../controls/Field";

const roles = ["student", "assistant", "instructor", "administrator"] as const;

function NewAccount({ give }: { give: (s: Schemas["Slip"]) => void }) {
  const empty = { name: "", login: "", role: "instructor" as (typeof roles)[number] };
  const { value: u, set, drop } = useKept("new-account", empty);
  const add = useMutation({
    mutationFn: () => ask(client.POST("/users", { body: u })),
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
      <Field label="Role">
        <select
          className="select select-sm w-36"
          value={u.role}
          onChange={(e) => set({ ...u, role: e.target.value as typeof u.role })}
        >
          {roles.map((r) => (
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

/** All accounts, for the administrator. */
export function Users() {
  useTitle("Accounts");
  const [slips, setSlips] = useState<Schemas["Slip"][]>([]);
  const [find, setFind] = useState("");
  const q = useQuery({ queryKey: ["users"], queryFn: () => ask(client.GET("/users")) });
  if (q.isPending) return <Loading what="the accounts" />;
  if (!q.data)
    return (
      <div className="p-6">
        <Trouble error={q.error} retry={() => void q.refetch()} />
      </div>
    );
  const give = (s: Schemas["Slip"]) =>
    setSlips((old) => [...old.filter((x) => x.login !== s.login), s]);
  const rows = q.data.filter((u) =>
    `${u.name} ${u.login} ${u.role}`.toLowerCase().includes(find.toLowerCase()),
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
              <th>Role</th>
              <th>Password</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((u) => (
              <tr key={u.id}>
                <td>{u.name}</td>
                <td className="font-mono">{u.login}</td>
                <td>{u.role}</td>
                <td>
                  {u.mustChange && <span className="mr-2 text-sm">not changed yet</span>}
                  <ResetPassword id={u.id} name={u.name} give={give} />
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
      </Panel>
    </div>
  );
}
