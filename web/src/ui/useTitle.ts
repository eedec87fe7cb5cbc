import { useEffect } from "react";

/** The page's title, from the nearest thing outward: what is open, then the product. */
export function useTitle(...parts: string[]) {
  const title = [...parts.filter(Boolean), "Hydrarch"].join(" · ");
  useEffect(() => {
    document.title = title;
    return () => {
      document.title = "Hydrarch";
    };
  }, [title]);
}
