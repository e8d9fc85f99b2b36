import { type FormEvent, useState } from "react";
import { Trouble } from "../app/states";
import { useSignIn } from "./session";

export function SignIn() {
  const [login, setLogin] = useState("");
  const [password, setPassword] = useState("");
  const signIn = useSignIn();
  const submit = (e: FormEvent) => {
    e.preventDefault();
    signIn.mutate({ login, password });
  };
  return (
    <main className="grid min-h-screen place-items-center p-4">
      <form onSubmit={submit} className="w-96 border-2 border-neutral bg-base-100">
        <div className="flex items-center gap-3 border-b border-neutral px-6 py-4">
          <img src="/mark.svg" alt="" className="size-9" />
          <div><h1>Hammerset</h1><p className="text-sm">Drawing exercises, checked to the last dimension</p></div>
        </div>
        <div className="flex flex-col gap-4 p-6">
          <label className="flex flex-col gap-1 text-sm">Login<input className="input w-full" name="login" autoComplete="username" autoFocus required value={login} onChange={(e) => setLogin(e.target.value)} /></label>
          <label className="flex flex-col gap-1 text-sm">Password<input className="input w-full" name="password" type="password" autoComplete="current-password" required value={password} onChange={(e) => setPassword(e.target.value)} /></label>
          {signIn.error && <Trouble error={signIn.error} />}
          <button type="submit" className="btn btn-primary" disabled={signIn.isPending}>{signIn.isPending ? "Signing in …" : "Sign in"}</button>
        </div>
      </form>
    </main>
  );
}
