import { useQuery } from "@tanstack/react-query";
import { Link, useParams, useSearchParams } from "react-router";
import { compareQuery } from "../../api/queries";
import { Frame } from "../../parts/Frame";
import { Waiting } from "../../parts/Waiting";

/** Two revisions beside each other; what changed stands out by a bar and by weight, not by colour alone. */
export function CompareScreen() {
  const { id = "" } = useParams();
  const [search] = useSearchParams();
  const [older, newer] = [Number(search.get("old")), Number(search.get("new"))];
  const { data: lines, error } = useQuery(compareQuery(id, older, newer));
  if (!lines) return <Waiting error={error} />;
  const changed = lines.filter((line) => line.changed).length;
  return (
    <Frame
      title={`Revision ${older} and revision ${newer}`}
      aside={<span className="pr-3">lines changed: {changed}</span>}
    >
      <table className="w-full text-lg">
        <thead>
          <tr className="border-base-300 border-b text-left">
            <th className="w-36 p-3">where</th>
            <th className="p-3">
              <Link className="link" to={`/specs/${id}?revision=${older}`}>
                revision {older}
              </Link>
            </th>
            <th className="p-3">
              <Link className="link" to={`/specs/${id}?revision=${newer}`}>
                revision {newer}
              </Link>
            </th>
          </tr>
        </thead>
        <tbody>
          {lines.map((line) => (
            <tr key={line.where} className="border-base-300 border-b align-top">
              <th
                scope="row"
                className={`border-l-8 p-3 text-left font-normal ${line.changed ? "border-l-primary" : "border-l-transparent"}`}
              >
                {line.where}
                {line.changed && <span className="sr-only"> changed</span>}
              </th>
              <td className="p-3">{line.changed ? <s>{line.old || "nothing"}</s> : line.old}</td>
              <td className={`p-3 ${line.changed ? "font-bold" : ""}`}>{line.new || "nothing"}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Frame>
  );
}
