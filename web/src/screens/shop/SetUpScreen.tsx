import { type FormEvent, useState } from "react";
import { api, ask } from "../../api/client";
import { useCommand } from "../../api/command";
import { signInQuery } from "../../api/queries";
import { Field } from "../../parts/Field";
import { Trouble } from "../../parts/Trouble";

/** An empty shop: the first person names it and becomes its first lead. */
export function SetUpScreen() {
  const [shop, setShop] = useState("");
  const [name, setName] = useState("");
  const [pin, setPin] = useState("");
  const setUp = useCommand({
    body: ({ id }, _: undefined) => ({
      id,
      shop,
      name,
      pin,
      time_zone: Intl.DateTimeFormat().resolvedOptions().timeZone || "UTC",
    }),
    send: (body) => ask(api.POST("/api/shop", { body })),
    changes: signInQuery.queryKey,
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    setUp.press(undefined);
  };
  return (
    <main className="mx-auto max-w-xl p-6">
      <h1 className="text-3xl font-bold">A new shop</h1>
      <p className="my-3 text-lg">
        You are the first here, so you are its lead: you may put people on the list and decide where a run is not good.
      </p>
      <form className="flex flex-col gap-4" onSubmit={submit}>
        <Field label="Name of the shop" required value={shop} onChange={(e) => setShop(e.target.value)} />
        <Field label="Your name" required value={name} onChange={(e) => setName(e.target.value)} />
        <Field
          label="Your PIN"
          hint="4 to 8 digits"
          type="password"
          inputMode="numeric"
          required
          value={pin}
          onChange={(e) => setPin(e.target.value)}
        />
        <Trouble error={setUp.error} />
        <button type="submit" className="btn btn-primary" disabled={setUp.isPending}>
          Set it up
        </button>
      </form>
    </main>
  );
}
