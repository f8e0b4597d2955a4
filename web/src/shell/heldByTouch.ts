/**
 * A ref for a part of a drawing that is dragged: a finger on it moves it, not the page. Browsers heed
 * `touch-action` on a whole drawing only, and React listens to touches too late to say so.
 */
export function heldByTouch(element: Element | null): void {
  element?.addEventListener("touchstart", stay, { passive: false });
}

function stay(event: Event) {
  event.preventDefault();
}
