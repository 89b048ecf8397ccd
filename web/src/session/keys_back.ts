/** Who has the keys: after a pointer, and after a field was left, the sheet. */

/** Controls that a pointer sets: none of them keeps the keys. */
const SET_BY_POINTER =
  "button, [role=slider], [role=checkbox], [role=radio], input[type=range], input[type=checkbox], summary";
const OPEN = "[role=dialog]:not([data-beside]), [role=menu], [role=listbox]";

function focusSheet(): boolean {
  const sheet = document.querySelector<HTMLElement>("canvas[role=application]");
  sheet?.focus({ preventScroll: true });
  return sheet !== null;
}

/** After a pointer has set a fader, a box or a button, in a window or in none, the keys are the sheet's again. */
export function giveKeysBack(pressedIn: Element | null): void {
  const focused = document.activeElement;
  if (!focused || focused.closest(OPEN) || document.querySelector(OPEN)) return;
  if (focused.closest("[role=dialog]") !== pressedIn && focused !== document.body) return; // a window has opened
  if (focused.matches(SET_BY_POINTER) || focused === document.body) focusSheet();
}

/** Leave a field that stands beside the sheet; false in a window, and where there is no sheet: the field keeps the keys. */
export function leaveField(field: HTMLElement): boolean {
  return !field.closest("[role=dialog]") && focusSheet();
}
