import { useLayoutEffect } from "react";
import { store } from "../document/track/store";
import { letGo } from "../commands/holding";
import { keyFor, pressName } from "../commands/keys";
import { listenTo } from "../listening/playing";
import { giveKeysBack } from "../session/keys_back";

function inField(target: EventTarget | null): boolean {
  return (
    target instanceof Element &&
    target.closest(
      "input, textarea, select, [role=dialog]:not([data-beside]), [role=menu], [role=listbox], [role=slider]",
    ) !== null
  );
}

function onControl(target: EventTarget | null): boolean {
  return target instanceof Element && target.closest("button, a, [role=radio], [role=tab], [role=grid]") !== null;
}

/** Presses that belong to the control which has the focus. */
function belongsToControl(event: KeyboardEvent): boolean {
  if (event.key === " " || event.key === "Enter") return onControl(event.target);
  const moving = event.key.startsWith("Arrow") && !event.ctrlKey;
  return moving && event.target instanceof Element && event.target.closest("[role=radiogroup], [role=grid]") !== null;
}

/** The editor's keys, active as soon as the editor is on screen. */
export function useKeyboard(): void {
  useLayoutEffect(() => {
    let holding: { code: string; before: ReturnType<typeof store.getState>["listening"] } | null = null;
    const down = (event: KeyboardEvent): void => {
      window.clearTimeout(later); // whoever goes on by keys has the focus where it is
      if (!event.repeat) letGo();
      if (inField(event.target) || event.defaultPrevented || store.getState().help || belongsToControl(event)) return;
      const key = keyFor(event);
      if (!key) return;
      event.preventDefault();
      if (event.repeat && (key.held || /^[0-9]$/.test(pressName(event)))) return;
      if (key.held) holding = { code: event.code, before: store.getState().listening };
      key.run(event);
    };
    const up = (event: KeyboardEvent): void => {
      letGo(event.code);
      if (holding?.code !== event.code) return;
      listenTo(holding.before);
      holding = null;
    };
    let later: number | undefined;
    // A list or menu that was opened gives the focus back to its button once it has left: looked at again then.
    const pressed = (event: PointerEvent): void => {
      if (!(event.target instanceof Element) || event.target.closest("header, [role=grid]")) return;
      const pressedIn = event.target.closest("[role=dialog]");
      window.setTimeout(giveKeysBack, 0, pressedIn);
      later = window.setTimeout(giveKeysBack, 250, pressedIn);
    };
    const away = (): void => letGo();
    const ending = new AbortController();
    const { signal } = ending;
    window.addEventListener("keydown", down, { signal });
    window.addEventListener("keyup", up, { signal });
    window.addEventListener("pointerup", pressed, { signal });
    window.addEventListener("pointerdown", away, { signal, capture: true });
    window.addEventListener("blur", away, { signal });
    return () => {
      away();
      ending.abort();
    };
  }, []);
}
