import { CalendarDays, GraduationCap, Moon, Search, Sun, UserRound, Users, Wrench } from "lucide-react";
import { useState } from "react";
import { NavLink } from "react-router";
import { Ask } from "./Ask";
import { useMe } from "./useMe";
import { useSwitch } from "./useSwitch";

const THEME = "tight.theme";

/** The theme that was chosen; without one the system's own. */
export function applyTheme(): void {
  const chosen = localStorage.getItem(THEME);
  if (chosen) document.documentElement.dataset.theme = chosen;
}

function isNight(): boolean {
  const chosen = localStorage.getItem(THEME);
  return chosen ? chosen === "night" : matchMedia("(prefers-color-scheme: dark)").matches;
}

/** The places, under the thumb; and who is signed in, one tap from somebody else. */
export function Dock({ guide }: { guide?: string | undefined }) {
  const me = useMe();
  const leave = useSwitch();
  const [night, setNight] = useState(isNight);
  const turn = () => {
    localStorage.setItem(THEME, night ? "day" : "night");
    applyTheme();
    setNight(!night);
  };
  const place = "btn btn-ghost min-w-0 flex-1 max-w-48 max-sm:flex-col max-sm:gap-0 max-sm:px-0 max-sm:text-xs gap-2";
  return (
    <nav aria-label="places" className="bg-base-200 border-base-300 flex items-center gap-1 border-t px-2 py-1">
      <NavLink to="/" end className={({ isActive }) => `${place} ${isActive ? "bg-base-300 font-bold" : ""}`}>
        <Search aria-hidden="true" size={22} className="shrink-0" />
        <span>
          Find<span className="max-lg:hidden"> and bay</span>
        </span>
      </NavLink>
      <NavLink to="/week" className={({ isActive }) => `${place} ${isActive ? "bg-base-300 font-bold" : ""}`}>
        <CalendarDays aria-hidden="true" size={22} /> Week
      </NavLink>
      <NavLink to="/crib" className={({ isActive }) => `${place} ${isActive ? "bg-base-300 font-bold" : ""}`}>
        <Wrench aria-hidden="true" size={22} /> Crib
      </NavLink>
      <NavLink to="/practice" className={({ isActive }) => `${place} ${isActive ? "bg-base-300 font-bold" : ""}`}>
        <GraduationCap aria-hidden="true" size={22} /> Learn
      </NavLink>
      <NavLink to="/shop" className={({ isActive }) => `${place} ${isActive ? "bg-base-300 font-bold" : ""}`}>
        <Users aria-hidden="true" size={22} /> Shop
      </NavLink>
      <span className="flex-1 max-sm:hidden" />
      <Ask page={guide} />
      <button
        type="button"
        className="btn btn-ghost btn-square max-sm:hidden"
        aria-label={night ? "light" : "dark"}
        onClick={turn}
      >
        {night ? <Sun aria-hidden="true" /> : <Moon aria-hidden="true" />}
      </button>
      <button
        type="button"
        className="btn btn-ghost min-w-0 gap-2 max-sm:flex-1 max-sm:flex-col max-sm:gap-0 max-sm:px-0 max-sm:text-xs"
        onClick={leave}
      >
        <UserRound aria-hidden="true" size={22} />
        <span>
          {me.person.name}
          <span className="text-base-content/80 block text-sm max-sm:hidden">
            {me.person.roles.join(", ")} · switch
          </span>
        </span>
      </button>
    </nav>
  );
}
