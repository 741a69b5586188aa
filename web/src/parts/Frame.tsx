import { ArrowLeft } from "lucide-react";
import type { ReactNode } from "react";
import { useNavigate } from "react-router";
import { Dock } from "./Dock";
import { NotSent } from "./NotSent";

type Props = { title: string; aside?: ReactNode; children: ReactNode; dock?: boolean };

/** A screen: what it is, the way back, its content, the places. */
export function Frame({ title, aside, children, dock = true }: Props) {
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
      </header>
      <main className="min-h-0 flex-1 overflow-y-auto">{children}</main>
      {dock && <Dock />}
    </div>
  );
}
