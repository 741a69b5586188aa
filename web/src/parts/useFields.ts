import { type DefaultValues, type FieldValues, type Path, useForm } from "react-hook-form";
import { Problem } from "../api/client";

/**
 * The lines of a form, each named as the server names the field, so that a refusal lands on the line that it is about. What
 * was typed stays.
 */
export function useFields<Values extends FieldValues>(defaults: DefaultValues<Values>) {
  const form = useForm<Values>({ defaultValues: defaults });
  const refused = (error: unknown) => {
    if (!(error instanceof Problem) || error.ask !== null) return;
    const name = Object.keys(form.getValues()).find((each) => error.field === each || error.field.endsWith(`.${each}`));
    if (!name) return;
    form.setError(name as Path<Values>, { message: `${error.fault} ${error.remedy}` });
    form.setFocus(name as Path<Values>);
  };
  return { form, refused };
}
