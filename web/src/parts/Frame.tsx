import { ArrowLeft } from "lucide-react";
import type { ReactNode } from "react";
import { useNavigate } from "react-router";
import { Ask } from "./Ask";
import { Dock } from "./Dock";
import { NotSent } from "./NotSent";

type Props = {
  title: string;
  aside?: ReactNode;
  children: ReactNode;
  /** Whether the places stand at its lower edge; else the question mark stands at its head. */
  dock?: boolean;
  /** The main key on a phone, where its own place would be far below: it stands above the places. */
  foot?: ReactNode;
  /** The page of the guide that helps here, where that hangs on more than the address. */
  guide?: string;
};

/** A screen: what it is, the way back, its content, the places. */
export function Frame({ title, aside, children, dock = true, foot, guide }: Props) {
  const navigate = useNavigate();
  return (
    <div className="flex h-dvh flex-col">
      <header className="border-base-300 flex flex-wrap items-center gap-x-2 border-b px-2">
        <button type="button" className="btn btn-ghost btn-square" aria-label="back" onClick={() => navigate(-1)}>
          <ArrowLeft aria-hidden="true" />
        </button>
        <h1 className="min-w-40 flex-1 text-xl font-bold">{title}</h1>
        <NotSent />
        {aside}
        {!dock && <Ask page={guide} />}
      </header>
      <main className="min-h-0 flex-1 overflow-y-auto">{children}</main>
      {foot && <div className="border-base-300 flex flex-col border-t p-2 md:hidden">{foot}</div>}
      {dock && <Dock guide={guide} />}
    </div>
  );
}
