import { useEffect } from "react";
import { type NavigateFunction, type To, useNavigate } from "react-router";

const ASKS = "What you changed here is not saved. Go away all the same?";

/**
 * Goes elsewhere, but asks first while something is not saved: for keys, for links of the page, and
 * for leaving the page altogether.
 */
export function useAskFirst(unsaved: boolean): NavigateFunction {
  const navigate = useNavigate();
  useEffect(() => {
    if (!unsaved) return undefined;
    const leave = (event: BeforeUnloadEvent) => event.preventDefault();
    const follow = (event: MouseEvent) => {
      const link = event.target instanceof Element ? event.target.closest("a[href]") : null;
      if (!link || link.hasAttribute("download") || window.confirm(ASKS)) return;
      event.preventDefault();
      event.stopPropagation();
    };
    window.addEventListener("beforeunload", leave);
    window.addEventListener("click", follow, { capture: true });
    return () => {
      window.removeEventListener("beforeunload", leave);
      window.removeEventListener("click", follow, { capture: true });
    };
  }, [unsaved]);
  return ((to: To) => {
    if (!unsaved || window.confirm(ASKS)) return navigate(to);
    return undefined;
  }) as NavigateFunction;
}
