import { useMutation } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { useNavigate } from "react-router";
import { type Me, Problem, ask, client, queries } from "../api/client";
import { useTitle } from "../app/place";
import { Panel, Trouble } from "../controls/notices";

/** Changing one's own password; with a first password it comes before anything else. */
export function PasswordPage({ me }: { me: Me }) {
  useTitle("My password");
  const go = useNavigate();
  const [old, setOld] = useState("");
  const [fresh, setFresh] = useState("");
  const [again, setAgain] = useState("");
  const change = useMutation({
    mutationFn: () => {
      if (fresh !== again)
        throw new Problem("the two new passwords differ", "type the same twice", 0);
      return ask(client.PUT("/session/password", { body: { old, new: fresh } }));
    },
    onSuccess: () => {
      queries.setQueryData(["me"], { ...me, mustChange: false });
      void queries.invalidateQueries();
      void go("/");
    },
  });
  const submit = (e: FormEvent) => {
    e.preventDefault();
    change.mutate();
  };
  const field = (
    label: string,
    name: string,
    complete: string,
    value: string,
    set: (s: string) => void,
  ) => (
    <label className="flex flex-col gap-1 text-sm">
      {label}
      <input
        className="input w-full"
        type="password"
        name={name}
        autoComplete={complete}
        required
        value={value}
        onChange={(e) => set(e.target.value)}
      />
    </label>
  );
  return (
    <div className="mx-auto max-w-md p-4">
      <h1 className="mb-3">My password</h1>
      <Panel title={me.mustChange ? "Choose a password of your own" : "Change it"}>
        <form onSubmit={submit} className="flex flex-col gap-3 p-4">
          {me.mustChange && (
            <p className="text-sm">
              The one that you signed in with was given to you on paper and may have been seen by
              others.
            </p>
          )}
          <input
            type="text"
            name="username"
            autoComplete="username"
            value={me.login}
            readOnly
            hidden
          />
          {field(
            me.mustChange ? "The password on the slip" : "The old one",
            "old",
            "current-password",
            old,
            setOld,
          )}
          {field("The new one, at least 8 letters", "new", "new-password", fresh, setFresh)}
          {field("The new one again", "again", "new-password", again, setAgain)}
          {change.error && <Trouble error={change.error} />}
          <button type="submit" className="btn btn-primary" disabled={change.isPending}>
            {change.isPending ? "Changing …" : "Change the password"}
          </button>
        </form>
      </Panel>
    </div>
  );
}
