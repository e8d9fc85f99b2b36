import { type FormEvent, useEffect, useRef, useState } from "react";
import { type Me, queries } from "../api/client";
import { useOutside } from "../telling/messages";
import { Trouble } from "../controls/notices";
import { useSavers } from "../saving/savers";
import { useSignIn } from "./session";
import { cx } from "../app/cx";
import { Field } from "../controls/Field";

function Fields({
  login,
  setLogin,
  fixed = false,
  submit,
  error,
  pending,
}: {
  login: string;
  setLogin: (s: string) => void;
  fixed?: boolean;
  submit: (password: string) => void;
  error: unknown;
  pending: boolean;
}) {
  const [password, setPassword] = useState("");
  const send = (e: FormEvent) => {
    e.preventDefault();
    submit(password);
  };
  return (
    <form onSubmit={send} className="flex flex-col gap-4 p-6">
      <Field label="Login" className="text-sm">
        <input
          className="input w-full"
          name="login"
          autoComplete="username"
          autoFocus={!fixed}
          required
          readOnly={fixed}
          value={login}
          onChange={(e) => setLogin(e.target.value)}
        />
      </Field>
      <Field label="Password" className="text-sm">
        <input
          className="input w-full"
          name="password"
          type="password"
          autoComplete="current-password"
          autoFocus={fixed}
          required
          value={password}
          onChange={(e) => setPassword(e.target.value)}
        />
      </Field>
      {error != null && <Trouble error={error} />}
      <button type="submit" className="btn btn-primary" disabled={pending}>
        {pending ? "Signing in …" : "Sign in"}
      </button>
    </form>
  );
}

export function SignIn() {
  const [login, setLogin] = useState("");
  const signIn = useSignIn();
  const outside = useOutside();
  return (
    <main className="grid min-h-screen place-items-center p-4">
      <div className="w-96 border-2 border-neutral bg-base-100">
        <div className="flex items-center gap-3 border-b border-neutral px-6 py-4">
          <img src="/mark.svg" alt="" className="size-9" />
          <div>
            <h1>Hammerset</h1>
            <p className="text-sm">Drawing exercises, checked to the last dimension</p>
          </div>
        </div>
        <Fields
          login={login}
          setLogin={setLogin}
          submit={(password) => signIn.mutate({ login, password })}
          error={signIn.error}
          pending={signIn.isPending}
        />
        {outside.data?.goes && (
          <p className="px-6 pb-4 text-sm">
            <a className="link" href="/forgotten">
              Forgotten your password?
            </a>
          </p>
        )}
      </div>
    </main>
  );
}

/**
 * Over the page whose session has ended: the page stays as it is and goes on when its person is
 * back.
 */
export function SignInAgain({ me }: { me: Me }) {
  const signIn = useSignIn();
  const savers = useSavers();
  const dialog = useRef<HTMLDialogElement>(null);
  useEffect(() => dialog.current?.showModal(), []);
  const submit = (password: string) =>
    signIn.mutate(
      { login: me.login, password },
      {
        onSuccess: () => {
          void queries.invalidateQueries({ predicate: (q) => q.state.status === "error" });
          savers.retry();
        },
      },
    );
  return (
    <dialog
      ref={dialog}
      className={cx(
        "m-auto w-96 border-2 border-neutral bg-base-100 text-base-content",
        "backdrop:bg-neutral/50",
      )}
      aria-label="Sign in again"
      onCancel={(e) => e.preventDefault()}
    >
      <p className="px-6 pt-4">
        Your session has ended. Nothing on this page is lost: sign in again and go on.
      </p>
      <Fields
        login={me.login}
        setLogin={() => undefined}
        fixed
        submit={submit}
        error={signIn.error}
        pending={signIn.isPending}
      />
      <p className="px-6 pb-4 text-sm">
        Not {me.name}?{" "}
        <a className="link" href="/">
          Begin anew
        </a>
        ; what is not saved stays in this browser.
      </p>
    </dialog>
  );
}
