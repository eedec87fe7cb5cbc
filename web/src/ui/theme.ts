import { useEffect, useState } from "react";
import { kept } from "../api/kept";

type Theme = "light" | "dark";

const stored = (): Theme =>
  (kept.get("hydrarch.theme") as Theme | null) ??
  (matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light");

/** The theme, kept in the browser; the system's own until a person chooses. */
export function useTheme(): [Theme, () => void] {
  const [theme, setTheme] = useState<Theme>(stored);
  useEffect(() => {
    document.documentElement.dataset.theme = theme;
    document
      .querySelector('meta[name="theme-color"]')
      ?.setAttribute("content", theme === "dark" ? "#12181D" : "#F3F1EA");
  }, [theme]);
  const flip = () => {
    const next = theme === "dark" ? "light" : "dark";
    kept.put("hydrarch.theme", next);
    setTheme(next);
  };
  return [theme, flip];
}
