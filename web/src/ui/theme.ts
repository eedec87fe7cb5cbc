import { useEffect, useState } from "react";
import { kept } from "../api/kept";

type Theme = "light" | "dark";

const stored = (): Theme =>
  (kept.get("hydrarch.theme") as Theme | null) ??
  (matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light");

/** Show a page in a theme: every page, whether it has a switch for it or not. */
export function showTheme(theme: Theme = stored()): void {
  document.documentElement.dataset.theme = theme;
  document.querySelector('meta[name="theme-color"]')?.setAttribute("content", theme === "dark" ? "#12181D" : "#F3F1EA");
}

/** The theme, kept in the browser; the system's own until a person chooses. */
export function useTheme(): [Theme, () => void] {
  const [theme, setTheme] = useState<Theme>(stored);
  useEffect(() => showTheme(theme), [theme]);
  const flip = () => {
    const next = theme === "dark" ? "light" : "dark";
    kept.put("hydrarch.theme", next);
    setTheme(next);
  };
  return [theme, flip];
}
