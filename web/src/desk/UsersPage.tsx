import { useQuery } from "@tanstack/react-query";
import { ask, client } from "../api/client";
import { Loading, Panel, Trouble } from "../app/states";
import { useTitle } from "../app/place";

/** All accounts, for the administrator. */
export function Users() {
  const q = useQuery({ queryKey: ["users"], queryFn: () => ask(client.GET("/users")) });
  useTitle("Accounts");
  if (q.isPending) return <Loading what="the accounts" />;
  if (!q.data) return <div className="p-6"><Trouble error={q.error} retry={() => void q.refetch()} /></div>;
  return (
    <div className="mx-auto max-w-3xl p-4">
      <Panel title="Accounts" side={<span className="text-sm">{q.data.length}</span>}>
        <table className="table table-sm"><thead><tr><th>Name</th><th>Login</th><th>Role</th></tr></thead><tbody>{q.data.map((u) => <tr key={u.id}><td>{u.name}</td><td>{u.login}</td><td>{u.role}</td></tr>)}</tbody></table>
      </Panel>
    </div>
  );
}
