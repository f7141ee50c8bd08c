import { useEffect } from "react";

/** What the tab of the browser says while a screen is shown. */
export function useTitle(...parts: (string | undefined)[]): void {
  const title = [...parts.filter(Boolean), "Ironcaulk"].join(" · ");
  useEffect(() => {
    document.title = title;
  }, [title]);
}
