import { Button } from "../ui/button";
import { useHand } from "./hand";

/** Puts the cut away, and the tool with it. */
export function NoCut({ className = "" }: { className?: string }) {
  const { setCut, take } = useHand.getState();
  return (
    <Button
      look="quiet"
      className={`!py-1 ${className}`}
      onClick={() => {
        setCut(null);
        take("turn");
      }}
    >
      No cut
    </Button>
  );
}
