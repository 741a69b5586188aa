import { CircleQuestionMark } from "lucide-react";
import { Link, useLocation } from "react-router";
import { guideFor } from "./guide";

type Props = {
  /** A page of the guide; without it, the one for this address. */
  page?: string | undefined;
};

/** The question mark: how this is done, here. */
export function Ask({ page }: Props) {
  const { pathname } = useLocation();
  return (
    <Link
      to={page ? `/guide/${page}` : guideFor(pathname)}
      className="btn btn-ghost btn-square"
      aria-label="how this is done"
    >
      <CircleQuestionMark aria-hidden="true" />
    </Link>
  );
}
