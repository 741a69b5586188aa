import { FormProvider } from "react-hook-form";
import { address } from "../../api/addresses";
import { useCommand } from "../../api/command";
import { touched } from "../../api/queries";
import { newId } from "../../parts/ids";
import { Line } from "../../parts/Line";
import { Trouble } from "../../parts/Trouble";
import { useFields } from "../../parts/useFields";

/** An empty shop: the first person names it and becomes its first lead and keeper. */
export function SetUpScreen() {
  const { form, refused } = useFields({
    code: "",
    shop: "",
    time_zone: Intl.DateTimeFormat().resolvedOptions().timeZone ?? "",
    name: "",
    pin: "",
    tablet_name: "",
  });
  const setUp = useCommand({
    body: ({ id }) => ({
      id,
      tablet: newId(),
      ...form.getValues(),
    }),
    to: address("/api/shop"),
    changes: touched.people,
    secret: true,
    refused,
  });
  const placed = Object.keys(form.formState.errors).length > 0;
  return (
    <main className="mx-auto max-w-xl p-6">
      <h1 className="text-3xl font-bold">A new shop</h1>
      <p className="my-3 text-lg">
        You are the first here, so you are its lead and its keeper: you decide where a run is not good, and you put
        people and tablets on the list. Somebody else may be both later.
      </p>
      <FormProvider {...form}>
        <form
          className="flex flex-col gap-4"
          onSubmit={(event) => {
            event.preventDefault();
            form.clearErrors();
            setUp.press(undefined);
          }}
        >
          <Line
            name="code"
            label="Code"
            hint="8 digits, printed where ./tight up was started"
            inputMode="numeric"
            autoComplete="off"
            required
          />
          <Line name="shop" label="Name of the shop" required />
          <Line
            name="time_zone"
            label="Time zone of the shop"
            hint="as this tablet says; every time on every screen is told by it: Europe/Lisbon"
            required
          />
          <Line name="name" label="Your name" required />
          <Line name="pin" label="Your PIN" hint="4 to 8 digits" type="password" inputMode="numeric" required />
          <Line
            name="tablet_name"
            label="Name of this tablet"
            hint="as people here will call it: desk, hoist 2"
            required
          />
          <Trouble error={placed ? null : setUp.error} />
          <button type="submit" className="btn btn-primary" disabled={setUp.isPending}>
            Set it up
          </button>
        </form>
      </FormProvider>
    </main>
  );
}
