import { Tooltip } from "antd";
import { NavLink, useMatch } from "react-router";
import { useLastMix } from "../shared/lastMix";
import type { Mode } from "./theme";

const MARKS = {
  shelf: "M4 5h3v14H4zM9 8h3v11H9zM14.2 6.2l2.9-.8 3.4 12.7-2.9.8z",
  bench: "M3 12h3l2-6 3 13 3-10 2 3h5",
  order: "M4 6h2M4 12h2M4 18h2M9 6h11M9 12h7M9 18h11",
  tags: "M4 4h8l8 8-8 8-8-8zM8.5 8.5h.01",
  briefs: "M6 3h9l4 4v14H6zM15 3v4h4M9 12h7M9 16h7",
  press: "M4 20h16M6 16h12v4H6zM12 3v9M8.5 9l3.5 3.5L15.5 9M5 4h14",
  proof: "M5 4h14v16H5zM8.5 12l2.5 2.5 4.5-5",
  send: "M3 11.5L21 4l-5.5 16-4-7zM11.5 13L21 4",
  light: "M12 4a8 8 0 1 0 0 16zM12 4v16a8 8 0 0 0 0-16",
};

function Mark({ name }: { name: keyof typeof MARKS }) {
  return (
    <svg className="rail-mark" viewBox="0 0 24 24" width="22" height="22" aria-hidden="true">
      <path
        d={MARKS[name]}
        fill={name === "light" ? "currentColor" : "none"}
        stroke="currentColor"
        strokeWidth="1.6"
        strokeLinejoin="round"
        fillOpacity={name === "light" ? 0.25 : 1}
      />
    </svg>
  );
}

export function Rail({ mode, toggleMode }: { mode: Mode; toggleMode: () => void }) {
  const onBench = useMatch("/bench/:mixId");
  const last = useLastMix((one) => one.id);
  const mix = onBench ? Number(onBench.params.mixId) : last;
  return (
    <nav className="rail" aria-label="Screens">
      <img src="/icon.svg" alt="Ripe Press" width="34" height="34" className="rail-logo" />
      <NavLink to="/shelf">
        <Mark name="shelf" />
        Shelf
      </NavLink>
      {mix === null ? (
        <Tooltip title="Open a mix on the Shelf first" placement="right">
          <button type="button" className="rail-off" aria-disabled="true">
            <Mark name="bench" />
            Bench
          </button>
        </Tooltip>
      ) : (
        <NavLink to={`/bench/${mix}`}>
          <Mark name="bench" />
          Bench
        </NavLink>
      )}
      <NavLink to="/order">
        <Mark name="order" />
        Orders
      </NavLink>
      <NavLink to="/press">
        <Mark name="press" />
        Pressings
      </NavLink>
      <NavLink to="/proof">
        <Mark name="proof" />
        Proof
      </NavLink>
      <NavLink to="/send">
        <Mark name="send" />
        Outbox
      </NavLink>
      <NavLink to="/tags">
        <Mark name="tags" />
        Tags
      </NavLink>
      <NavLink to="/briefs">
        <Mark name="briefs" />
        Briefs
      </NavLink>
      <button type="button" className="rail-mode" onClick={toggleMode}>
        <Mark name="light" />
        {mode === "light" ? "Dark" : "Light"}
      </button>
    </nav>
  );
}
