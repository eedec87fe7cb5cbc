import { useEffect, useState } from "react";

type Theme = "light" | "dark";

const stored = (): Theme =>
  (localStorage.getItem("hydrarch.theme") as Theme | null) ??
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
    localStorage.setItem("hydrarch.theme", next);
    setTheme(next);
  };
  return [theme, flip];
}
