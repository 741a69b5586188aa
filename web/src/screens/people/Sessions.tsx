import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, ask } from "../../api/client";
import { meQuery, sessionsQuery } from "../../api/queries";
import { moment } from "../../parts/format";
import { Trouble } from "../../parts/Trouble";

/** Who is signed in where; a lead sees everybody. */
export function Sessions() {
  const queries = useQueryClient();
  const { data: sessions } = useQuery(sessionsQuery);
  const end = useMutation({
    mutationFn: (session_id: string) =>
      ask(api.DELETE("/api/sessions/{session_id}", { params: { path: { session_id } } })),
    onSettled: () =>
      Promise.all([sessionsQuery, meQuery].map(({ queryKey }) => queries.invalidateQueries({ queryKey }))),
  });
  return (
    <section aria-label="signed in">
      <h2 className="text-lg font-bold">Signed in</h2>
      <ul>
        {sessions?.map((session) => (
          <li
            key={session.id}
            className="border-base-300 flex flex-wrap items-center justify-between gap-3 border-b py-2"
          >
            <span>
              {session.name} · {session.device}
              {session.until && `, until ${moment(session.until)}`}
            </span>
            <button type="button" className="btn" onClick={() => end.mutate(session.id)}>
              End
            </button>
          </li>
        ))}
      </ul>
      <Trouble error={end.error} />
    </section>
  );
}
