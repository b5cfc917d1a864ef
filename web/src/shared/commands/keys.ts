import { useEffect, useRef } from "react";

type Action = (event: KeyboardEvent) => void;

/** Fields with letters that were not handed over yet: there, undo takes back letters. */
const typing = new WeakSet<EventTarget>();
const typed = ({ target }: Event) => target && typing.add(target);
const handedOver = ({ target }: Event) => target && typing.delete(target);
let watched = false;
function watchFields() {
  if (watched) return;
  watched = true;
  window.addEventListener("input", typed, true);
  for (const over of ["change", "focusout"]) window.addEventListener(over, handedOver, true);
}
const STEPS = new Set(["mod+z", "mod+shift+z"]);

/** Whether a key takes back a step of the screen from within a field: a number counts at every letter. */
function steps(event: KeyboardEvent, field: HTMLElement): boolean {
  const letters = typing.has(field) && field.role !== "spinbutton";
  return STEPS.has(nameOf(event)) && !letters && !field.closest("[role=dialog]");
}

/** Keys of a screen by name: `mod` is Control, or Command where there is one. */
export function useKeys(actions: Readonly<Record<string, Action>>): void {
  const current = useRef(actions);
  current.current = actions;
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      const target = event.target;
      if (event.key === "Enter") handedOver(event);
      // A box that is ticked keeps Space and the arrows; letters are typed into no box.
      const ticks = target instanceof HTMLInputElement && ["checkbox", "radio"].includes(target.type);
      if (ticks && (event.key === " " || event.key === "Enter" || event.key.startsWith("Arrow"))) return;
      if (
        target instanceof HTMLElement &&
        !(ticks && !target.closest("[role=dialog]")) &&
        !steps(event, target) &&
        (target.closest("input, textarea, [role=dialog], [role=combobox]") ||
          // Sliders keep their own keys; letters have their usual meaning.
          (target.closest("[role=slider], [role=separator]") && !/^[^ ]$/.test(event.key))) &&
        !target.closest("[data-arrows-pass]")
      )
        return;
      const onButton = target instanceof HTMLElement && target.closest("button, a") !== null;
      // Space and Enter belong to the focused button; at a listening desk, Space always plays.
      const plays = target instanceof HTMLElement && target.closest("[data-space]") !== null;
      if (
        onButton &&
        !(plays && event.key === " ") &&
        (event.key === " " || (event.key === "Enter" && !event.ctrlKey && !event.metaKey))
      )
        return;
      // In the tree the arrows go from station to station.
      if (target instanceof HTMLElement && target.closest("[data-arrows]") && event.key.startsWith("Arrow"))
        return;
      const action = current.current[nameOf(event)];
      if (!action) return;
      event.preventDefault();
      action(event);
    };
    watchFields();
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, []);
}

function nameOf(event: KeyboardEvent): string {
  const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
  if (!event.ctrlKey && !event.metaKey) return key;
  return `mod+${event.shiftKey ? "shift+" : ""}${key.toLowerCase()}`;
}
