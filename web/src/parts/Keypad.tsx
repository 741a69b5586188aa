import { Delete } from "lucide-react";

type Props = {
  value: string;
  onChange: (value: string) => void;
  decimal?: boolean;
  hidden?: boolean;
  label: string;
  most?: number;
  /** Whether a keyboard types into it at once. */
  ready?: boolean;
};

const KEYS = ["1", "2", "3", "4", "5", "6", "7", "8", "9"];

/** Digits for a gloved hand; a keyboard types into the same line. */
export function Keypad({ value, onChange, decimal = false, hidden = false, label, most = 8, ready = false }: Props) {
  const add = (digit: string) => value.length < most && onChange(value + digit);
  const key = "btn bg-base-100 border-base-content/40 min-h-16 text-2xl";
  return (
    <div className="flex w-full max-w-sm flex-col gap-2">
      <input
        // biome-ignore lint/a11y/noAutofocus: it is shown because somebody asked for it, and waits for digits only
        autoFocus={ready}
        aria-label={label}
        className="input w-full bg-base-100 text-center text-3xl"
        type={hidden ? "password" : "text"}
        inputMode="none"
        autoComplete="off"
        value={value}
        onChange={(event) =>
          onChange(
            event.target.value
              .replace(",", ".")
              .replace(/[^0-9.]/g, "")
              .slice(0, most),
          )
        }
      />
      <div className="grid grid-cols-3 gap-2">
        {KEYS.map((digit) => (
          <button key={digit} type="button" className={key} onClick={() => add(digit)}>
            {digit}
          </button>
        ))}
        {decimal ? (
          <button type="button" className={key} aria-label="decimal point" onClick={() => add(".")}>
            ·
          </button>
        ) : (
          <span />
        )}
        <button type="button" className={key} onClick={() => add("0")}>
          0
        </button>
        <button type="button" className={key} aria-label="delete" onClick={() => onChange(value.slice(0, -1))}>
          <Delete aria-hidden="true" />
        </button>
      </div>
    </div>
  );
}
