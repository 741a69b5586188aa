import { address } from "../../api/addresses";
import type { Schemas } from "../../api/client";
import { useCommand } from "../../api/command";
import { touched } from "../../api/queries";
import { Trouble } from "../../parts/Trouble";

type Props = { machine: Schemas["Machine"]; question: Schemas["Question"] };

/** The one question that separates specs that could apply; the answer is kept with the machine. */
export function OneQuestion({ machine, question }: Props) {
  const params = { path: { machine_id: machine.id } };
  const answer = useCommand({
    body: ({ id }, value: string) => ({ id, attribute: question.attribute, value }),
    to: address("/api/machines/{machine_id}/variant", params),
    changes: touched.machines,
  });
  return (
    <section aria-label="one question" className="border-primary rounded-box flex flex-col gap-3 border-2 p-4">
      <p className="text-xl font-bold">
        One question first: which {question.attribute} has {machine.fleet_number}?
      </p>
      <div className="flex flex-wrap gap-2">
        {question.answers.map((each) => (
          <button key={each.value} type="button" className="btn btn-primary" onClick={() => answer.press(each.value)}>
            <span>
              {each.value}
              {each.tell && <span className="block text-sm">{each.tell}</span>}
            </span>
          </button>
        ))}
      </div>
      <Trouble error={answer.error} />
    </section>
  );
}
