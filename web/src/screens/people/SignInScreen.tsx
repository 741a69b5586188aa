import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { meQuery, signInQuery } from "../../api/queries";
import { thisDevice } from "../../parts/ids";
import { Keypad } from "../../parts/Keypad";
import { Trouble } from "../../parts/Trouble";

/** Pick a name, type a PIN. */
export function SignInScreen({ door }: { door: Schemas["SignInPage"] }) {
  const queries = useQueryClient();
  const [person, setPerson] = useState<Schemas["Person"] | null>(null);
  const [pin, setPin] = useState("");
  const device = thisDevice();
  const signIn = useMutation({
    mutationFn: (who: string) =>
      ask(api.POST("/api/sessions", { body: { person: who, pin, device: device.id, device_name: device.name } })),
    retry: false,
    onSuccess: (me) => queries.setQueryData(meQuery.queryKey, me),
    onError: () => setPin(""),
    onSettled: () => queries.invalidateQueries({ queryKey: signInQuery.queryKey }),
  });
  return (
    <main className="mx-auto flex min-h-dvh max-w-5xl flex-col gap-6 p-6">
      <header>
        <h1 className="text-3xl font-bold">Tight Ledger</h1>
        <p className="text-lg">{door.shop}</p>
      </header>
      <div className="grid gap-8 md:grid-cols-2">
        <section aria-label="people">
          <h2 className="mb-2 text-lg font-bold">Who are you?</h2>
          <ul className="flex flex-col gap-2">
            {door.people.map((each) => (
              <li key={each.id}>
                <button
                  type="button"
                  className={`btn w-full justify-between text-xl ${person?.id === each.id ? "btn-primary" : "bg-base-100 border-base-content/40"}`}
                  aria-pressed={person?.id === each.id}
                  onClick={() => {
                    setPerson(each);
                    setPin("");
                    signIn.reset();
                  }}
                >
                  {each.name}
                  <span className="text-sm">{each.role}</span>
                </button>
              </li>
            ))}
          </ul>
        </section>
        {person && (
          <form
            className="flex flex-col gap-3"
            onSubmit={(event) => {
              event.preventDefault();
              if (pin) signIn.mutate(person.id);
            }}
          >
            <h2 className="text-lg font-bold">{person.name}, your PIN</h2>
            <Keypad key={person.id} label="PIN" hidden ready value={pin} onChange={setPin} />
            <button
              type="submit"
              className="btn btn-primary max-w-sm text-xl"
              disabled={pin.length < 4 || signIn.isPending}
            >
              Sign in
            </button>
            <Trouble error={signIn.error} />
          </form>
        )}
      </div>
    </main>
  );
}
