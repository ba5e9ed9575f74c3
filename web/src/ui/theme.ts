/** Light or dark: as the person said, else as the system is. */
import { useSyncExternalStore } from "react";

export type Theme = "light" | "dark";
const KEY = "hewel-theme";
const listeners = new Set<() => void>();

const system = (): Theme => (window.matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light");

export function currentTheme(): Theme {
  const draft = localStorage.getItem(KEY);
  return draft === "light" || draft === "dark" ? draft : system();
}

export function showTheme(): void {
  document.documentElement.dataset.theme = currentTheme();
}

export function turnTheme(): void {
  localStorage.setItem(KEY, currentTheme() === "dark" ? "light" : "dark");
  showTheme();
  listeners.forEach((tell) => tell());
}

export const useTheme = (): Theme =>
  useSyncExternalStore((tell) => {
    listeners.add(tell);
    return () => listeners.delete(tell);
  }, currentTheme);
