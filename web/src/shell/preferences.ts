import { useSyncExternalStore } from "react";

/** Choices of this browser, kept in its local storage. */
interface Preferences {
  theme: "paper" | "slate";
  units: "metric" | "imperial";
  findings: "open" | "closed";
}

const KEY = "tickstone";
const listeners = new Set<() => void>();

function usual(): Preferences {
  const dark = window.matchMedia("(prefers-color-scheme: dark)").matches;
  return { theme: dark ? "slate" : "paper", units: "metric", findings: "open" };
}

function load(): Preferences {
  try {
    return { ...usual(), ...(JSON.parse(localStorage.getItem(KEY) ?? "{}") as Partial<Preferences>) };
  } catch {
    return usual();
  }
}

let current = load();

export function applyTheme(): void {
  document.documentElement.dataset["bsTheme"] = current.theme === "slate" ? "dark" : "light";
}

function set(change: Partial<Preferences>): void {
  current = { ...current, ...change };
  try {
    localStorage.setItem(KEY, JSON.stringify(current));
  } catch {
    // A browser that keeps nothing still works for this visit.
  }
  applyTheme();
  listeners.forEach((listener) => listener());
}

export function usePreferences(): [Preferences, (change: Partial<Preferences>) => void] {
  const preferences = useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => current,
  );
  return [preferences, set];
}
