import { Tooltip } from "antd";
import { NavLink, useMatch } from "react-router";
import { useLastMix } from "../shared/lastMix";
import type { Mode } from "../shared/theme";
import { PLACES } from "./places";

const BENCH = "M3 12h3l2-6 3 13 3-10 2 3h5";
const LIGHT = "M12 4a8 8 0 1 0 0 16zM12 4v16a8 8 0 0 0 0-16";

function Mark({ path }: { path: string }) {
  return (
    <svg className="rail-mark" viewBox="0 0 24 24" width="22" height="22" aria-hidden="true">
      <path
        d={path}
        fill={path === LIGHT ? "currentColor" : "none"}
        stroke="currentColor"
        strokeWidth="1.6"
        strokeLinejoin="round"
        fillOpacity={path === LIGHT ? 0.25 : 1}
      />
    </svg>
  );
}

function Place({ place }: { place: (typeof PLACES)[number] }) {
  return (
    <NavLink to={place.to}>
      <Mark path={place.mark} />
      {place.name}
    </NavLink>
  );
}

const [SHELF, ...REST] = PLACES;

export function Rail({ mode, toggleMode }: { mode: Mode; toggleMode: () => void }) {
  const onBench = useMatch("/bench/:mixId");
  const last = useLastMix((one) => one.id);
  const mix = onBench ? Number(onBench.params.mixId) : last;
  return (
    <nav className="rail" aria-label="Screens">
      <img src="/icon.svg" alt="Ripe Press" width="34" height="34" className="rail-logo" />
      <Place place={SHELF} />
      {mix === null ? (
        <Tooltip title="Open a mix on the Shelf first" placement="right">
          <button type="button" className="rail-off" aria-disabled="true">
            <Mark path={BENCH} />
            Bench
          </button>
        </Tooltip>
      ) : (
        <NavLink to={`/bench/${mix}`}>
          <Mark path={BENCH} />
          Bench
        </NavLink>
      )}
      {REST.map((place) => (
        <Place key={place.to} place={place} />
      ))}
      <button type="button" className="rail-mode" onClick={toggleMode}>
        <Mark path={LIGHT} />
        {mode === "light" ? "Dark" : "Light"}
      </button>
    </nav>
  );
}
