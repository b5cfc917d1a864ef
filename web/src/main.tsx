import "@fontsource/zilla-slab/600.css";
import "@fontsource-variable/atkinson-hyperlegible-next/wght.css";
import "./app/styles.css";
import "./features/bench/bench.css";
import "./features/bench/ticket/ticket.css";
import "./features/bench/panel/station.css";
import "./features/briefs/briefs.css";
import "./shared/desk/desk.css";
import "./features/proof/proof.css";
import "./features/shelf/shelf.css";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { App } from "./app/App";

const root = document.getElementById("root");
if (!root) throw new Error("The page has no root element.");
createRoot(root).render(
  <StrictMode>
    <App />
  </StrictMode>,
);
