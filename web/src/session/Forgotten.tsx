import { useMutation } from "@tanstack/react-query";
import { type FormEvent, type ReactNode, useState } from "react";
import { Problem, ask, client } from "../api/client";
import { Field } from "../controls/Field";
import { Trouble } from "../controls/notices";

function Card({ title, children }: { title: string; children: ReactNode }) {
  return (
    <main className="grid min-h-screen place-items-center p-4">
      <div className="w-96 border-2 border-neutral bg-base-100 p-6 text-sm">
        <h1 className="mb-3">{title}</h1>
        {children}
        <p className="pt-4">
          <a className="link" href="/">
            To the sign-in
          </a>
        </p>
      </div>
    </main>
  );
}

/** Asks for a link by mail, by which another password is chosen. */
export function Forgotten() {
  const [login, setLogin] = useState("");
  const send = useMutation({
    mutationFn: () => ask(client.POST("/session/mail", { body: { login } })),
  });
  const submit = (e: FormEvent) => {
    e.preventDefault();
    send.mutate();
  };
  return (
    <Card title="Forgotten password">
      {send.isSuccess ? (
        <p role="status">
          If there is an account with this login and a mail address, a link is on its way to it. It
          is good for an hour. If nothing comes, ask your instructor for a new password.
        </p>
      ) : (
        <form onSubmit={submit} className="flex flex-col gap-3">
          <Field label="Login">
            <input
              className="input w-full"
              name="login"
              autoComplete="username"
              autoFocus
              required
              value={login}
              onChange={(e) => setLogin(e.target.value)}
            />
          </Field>
          {send.error && <Trouble error={send.error} />}
          <button type="submit" className="btn btn-primary" disabled={send.isPending}>
            Send me a link
          </button>
        </form>
      )}
    </Card>
  );
}

/** Chooses a password by a link from a mail. */
export function ChooseByLink() {
  const link = new URLSearchParams(window.location.search).get("link") ?? "";
  const [fresh, setFresh] = useState("");
  const [again, setAgain] = useState("");
  const choose = useMutation({
    mutationFn: () => {
      if (fresh !== again) throw new Problem("the two passwords differ", "type the same twice", 0);
      return ask(client.PUT("/session/mail", { body: { link, new: fresh } }));
    },
  });
  const submit = (e: FormEvent) => {
    e.preventDefault();
    choose.mutate();
  };
  return (
    <Card title="Choose a password">
      {choose.isSuccess ? (
        <p role="status">It is chosen. Sign in with it now.</p>
      ) : (
        <form onSubmit={submit} className="flex flex-col gap-3">
          {(
            [
              ["The new one, at least 8 letters", "new", fresh, setFresh],
              ["The new one again", "again", again, setAgain],
            ] as const
          ).map(([label, name, value, set]) => (
            <Field key={name} label={label}>
              <input
                className="input w-full"
                type="password"
                name={name}
                autoComplete="new-password"
                required
                value={value}
                onChange={(e) => set(e.target.value)}
              />
            </Field>
          ))}
          {choose.error && <Trouble error={choose.error} />}
          <button type="submit" className="btn btn-primary" disabled={choose.isPending}>
            Choose it
          </button>
        </form>
      )}
    </Card>
  );
}
