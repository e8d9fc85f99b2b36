import { useMutation, useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { type Schemas, ask, client, queries } from "../api/client";
import { useTitle } from "../app/place";
import { Field, Tick } from "../controls/Field";
import { Loading, Panel, Trouble } from "../controls/notices";

type Telling = Schemas["Telling"];
type Kind = Schemas["MessageKind"];

const kinds: [Kind, string][] = [
  ["issued", "an exercise is issued to me"],
  ["due", "an exercise is due within a day and I have not handed in"],
  ["returned", "an attempt of mine is returned"],
  ["revised", "the sheet of an exercise is changed"],
  ["answered", "a question about an exercise of mine is answered"],
  ["asked", "a student asks a question that I can answer"],
];

/** How one is told things beside the list in the application: by mail, and in a calendar. */
export function TellingPage() {
  useTitle("Mail and calendar");
  const q = useQuery({ queryKey: ["telling"], queryFn: () => ask(client.GET("/telling")) });
  return (
    <div className="mx-auto flex max-w-xl flex-col gap-3 p-4">
      <h1>Mail and calendar</h1>
      {q.isPending && <Loading what="what you have set up" />}
      {q.error && <Trouble error={q.error} retry={() => void q.refetch()} />}
      {q.data && <MailWanted of={q.data} />}
      {q.data && <Calendar there={q.data.calendar} />}
    </div>
  );
}

function MailWanted({ of }: { of: Telling }) {
  const [mail, setMail] = useState(of.mail);
  const [wanted, setWanted] = useState<Kind[]>(of.kinds);
  const save = useMutation({
    mutationFn: () => ask(client.PUT("/telling", { body: { mail, kinds: wanted } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["telling"] }),
  });
  const submit = (e: FormEvent) => {
    e.preventDefault();
    save.mutate();
  };
  return (
    <Panel title="Mail">
      <form onSubmit={submit} className="flex flex-col gap-2 p-4 text-sm">
        {!of.mailGoes && (
          <p>This school sends no mail yet. What you choose here counts as soon as it does.</p>
        )}
        <Field label="My mail address">
          <input
            type="email"
            className="input input-sm w-full"
            value={mail}
            onChange={(e) => setMail(e.target.value)}
          />
        </Field>
        <fieldset className="flex flex-col gap-1">
          <legend className="mb-1">Send me mail when</legend>
          {kinds.map(([kind, label]) => (
            <Tick
              key={kind}
              label={label}
              on={wanted.includes(kind)}
              set={(on) => setWanted(on ? [...wanted, kind] : wanted.filter((k) => k !== kind))}
            />
          ))}
        </fieldset>
        {save.error && <Trouble error={save.error} />}
        <div className="flex items-center gap-2">
          <button type="submit" className="btn btn-primary btn-sm" disabled={save.isPending}>
            Keep
          </button>
          {save.isSuccess && <span role="status">Kept.</span>}
        </div>
      </form>
    </Panel>
  );
}

function Calendar({ there }: { there: boolean }) {
  const done = { onSuccess: () => queries.invalidateQueries({ queryKey: ["telling"] }) };
  const make = useMutation({ mutationFn: () => ask(client.POST("/telling/calendar")), ...done });
  const end = useMutation({ mutationFn: () => ask(client.DELETE("/telling/calendar")), ...done });
  const address = make.data?.address;
  return (
    <Panel title="Calendar">
      <div className="flex flex-col gap-2 p-4 text-sm">
        <p>
          Your calendar program can show what is due: give it an address of your own, which it asks
          again and again. Whoever knows the address can read it, so keep it to yourself.
        </p>
        {there && !address && (
          <p>
            There is an address. It was shown when it was made; if you do not have it any more, make
            another one, and the old one ends.
          </p>
        )}
        {address && there && (
          <Field label="The address, shown this once">
            <input
              readOnly
              className="input input-sm w-full"
              value={address}
              onFocus={(e) => e.target.select()}
            />
          </Field>
        )}
        {(make.error ?? end.error) && <Trouble error={make.error ?? end.error} />}
        <div className="flex gap-2">
          <button
            type="button"
            className="btn btn-sm"
            disabled={make.isPending}
            onClick={() => make.mutate()}
          >
            {there ? "Make another address" : "Make an address"}
          </button>
          {there && (
            <button
              type="button"
              className="btn btn-sm"
              disabled={end.isPending}
              onClick={() => end.mutate()}
            >
              Revoke the address
            </button>
          )}
        </div>
      </div>
    </Panel>
  );
}
