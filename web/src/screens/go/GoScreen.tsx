import { useQuery } from "@tanstack/react-query";
import { Navigate, useParams } from "react-router";
import { followupQuery } from "../../api/queries";
import { followupPath } from "../../parts/Standing";
import { Waiting } from "../../parts/Waiting";

/** Where the code on a tag leads: to the very follow-up, ready to be prepared. */
export function GoScreen() {
  const { root = "", name = "" } = useParams();
  const { data: followup, error } = useQuery(followupQuery(root, name));
  if (!followup) return <Waiting error={error} />;
  return <Navigate to={followupPath(followup)} replace />;
}
