import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { meQuery, signInQuery } from "../../api/queries";
import { signIn } from "../../core/me";
import { useAway } from "../../core/useUnsent";
import { Ask } from "../../parts/Ask";
import { Field } from "../../parts/Field";
import { newId } from "../../parts/ids";
import { Keypad } from "../../parts/Keypad";
import { Unsent } from "../../parts/NotSent";
import { Trouble } from "../../parts/Trouble";
import { PickPerson } from "./PickPerson";
import { WithoutServer } from "./WithoutServer";

/** Pick a name, type a PIN. On a tablet that is new here a lead or a keeper does, once, and introduces it. */
export function SignInScreen({ door }: { door: Schemas["SignInPage"] }) {
  const queries = useQueryClient();
  const [person, setPerson] = useState<Schemas["Person"] | null>(null);
  const [pin, setPin] = useState("");
  const [name, setName] = useState("");
  const isNew = door.tablet === null;
  const away = useAway();
  const withoutServer = away && !isNew && pin === ""; // a PIN that is being typed stays where it is
  const enter = useMutation({
    mutationFn: async (who: string) =>
      isNew
        ? await ask(api.POST("/api/tablets", { body: { id: newId(), name, person: who, pin } })).then(() => null)
        : await signIn(who, pin),
    retry: false,
    onSuccess: async (me) => {
      if (!me) return setPerson(null);
      queries.setQueryData(meQuery.queryKey, me);
    },
    onError: () => setPin(""),
    onSettled: () => queries.invalidateQueries({ queryKey: signInQuery.queryKey }),
  });
  return (
    <main className="mx-auto flex min-h-dvh max-w-5xl flex-col gap-6 p-6">
      <header className="relative">
        <span className="absolute top-0 right-0">
          <Ask page="first-wheel" />
        </span>
        <h1 className="text-3xl font-bold">Tight Ledger</h1>
        <p className="text-lg">
          {door.shop}
          {door.tablet && <span className="text-base-content/80"> · {door.tablet}</span>}
        </p>
        <Unsent />
      </header>
      {isNew && (
        <p className="border-warning border-l-8 pl-4 text-lg">
          This tablet is new here. A lead or a keeper introduces it once; then everybody signs in on it.
        </p>
      )}
      <div className="grid gap-8 md:grid-cols-2">
        <PickPerson
          title={isNew ? "Who introduces it?" : "Who are you?"}
          people={door.people}
          chosen={person}
          onChoose={(each) => {
            setPerson(each);
            setPin("");
            enter.reset();
          }}
        />
        {person && withoutServer && (
          <WithoutServer person={person} onPicked={(me) => queries.setQueryData(meQuery.queryKey, me)} />
        )}
        {person && !withoutServer && (
          <form
            className="flex flex-col gap-3"
            onSubmit={(event) => {
              event.preventDefault();
              if (pin) enter.mutate(person.id);
            }}
          >
            {isNew && (
              <Field
                label="Name of this tablet"
                hint="as people here call it: hoist 2, yard"
                value={name}
                onChange={(event) => setName(event.target.value)}
              />
            )}
            <h2 className="text-lg font-bold">{person.name}, your PIN</h2>
            <Keypad key={person.id} label="PIN" hidden ready={!isNew} value={pin} onChange={setPin} />
            <button
              type="submit"
              className="btn btn-primary max-w-sm text-xl"
              disabled={pin.length < 4 || (isNew && !name.trim()) || enter.isPending}
            >
              {isNew ? "Introduce it" : "Sign in"}
            </button>
            <Trouble error={enter.error} />
          </form>
        )}
      </div>
    </main>
  );
}
