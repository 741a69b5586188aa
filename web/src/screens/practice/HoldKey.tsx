import { type ReactNode, useEffect, useRef } from "react";

type Props = { say: string; keys: object; children?: ReactNode };

/** The large key that is held; it has the focus, so that the space bar and a foot switch are it. */
export function HoldKey({ say, keys }: Props) {
  const key = useRef<HTMLButtonElement>(null);
  useEffect(() => key.current?.focus(), []);
  return (
    <button
      ref={key}
      type="button"
      className="btn btn-primary min-h-24 w-full touch-none text-2xl select-none"
      onContextMenu={(event) => event.preventDefault()}
      {...keys}
    >
      {say}
    </button>
  );
}
