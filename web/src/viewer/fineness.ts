import { useThree } from "@react-three/fiber";
import { useEffect, useRef, useState } from "react";
import type { EventDispatcher } from "three";
import type { Clip } from "./clip";
import type { Skin } from "./skin";

const SLOW = 120;
/** Frames that go by until the fence is set, ms. */
const FRAMES = 50;
const REST = 350;
/** It rests once it has not moved for so many times the pause between the last two movements. */
const PAUSES = 2.5;
/** Longer pauses are no pauses within one movement, ms. */
const LONGEST = 2_000;

/**
 * Whether to draw the skin itself rather than its coarse stand-in: not while it, or the plane that
 * cuts it, moves, on machines that need long for a picture of it. How long is measured at the first one.
 */
export function useFineness(skin: Skin, clip: Clip | null): boolean {
  const { gl } = useThree();
  const controls = useThree((state) => state.controls) as EventDispatcher<
    Record<"start" | "change" | "end", object>
  > | null;
  const [fine, setFine] = useState(!skin.coarse);
  const slow = useRef(true);
  /** How long the picture took, ms. */
  const took = useRef(0);
  useEffect(() => {
    setFine(!skin.coarse);
    if (!skin.coarse) return;
    let timer = 0;
    let held = false;
    let last = 0;
    let pause = 0;
    const rest = () => {
      window.clearTimeout(timer);
      // the slower the picture, the surer it has to be that nothing moves any more
      const longer = Math.min(took.current / 4, LONGEST);
      const wait = Math.max(REST, PAUSES * pause, longer);
      if (!held) timer = window.setTimeout(() => setFine(true), wait);
    };
    const moved = () => {
      if (!slow.current) return;
      const now = performance.now();
      const since = now - last;
      // what comes at once with another belongs to it
      if (since > SLOW / 2) pause = since < LONGEST ? since : 0;
      last = now;
      setFine(false);
      rest();
    };
    const start = () => {
      held = true;
      window.clearTimeout(timer);
    };
    const end = () => {
      held = false;
      rest();
    };
    rest();
    controls?.addEventListener("start", start);
    controls?.addEventListener("change", moved);
    controls?.addEventListener("end", end);
    const stopFollowing = clip?.follow(moved);
    return () => {
      stopFollowing?.();
      window.clearTimeout(timer);
      controls?.removeEventListener("start", start);
      controls?.removeEventListener("change", moved);
      controls?.removeEventListener("end", end);
    };
  }, [skin, controls, clip]);
  useEffect(() => {
    if (!fine || !skin.coarse || !slow.current) return;
    const context = gl.getContext() as WebGL2RenderingContext;
    let fence: WebGLSync | null = null;
    // from here on: where drawing is slow, the frames that come before the fence wait for it, too
    const asked = performance.now();
    const look = (now: number) => {
      if (!fence) {
        // the picture was asked for in the frame before this one
        fence = context.fenceSync(context.SYNC_GPU_COMMANDS_COMPLETE, 0);
        context.flush();
      } else if (context.getSyncParameter(fence, context.SYNC_STATUS) === context.SIGNALED) {
        took.current = now - asked;
        slow.current = took.current > SLOW + FRAMES;
        context.deleteSync(fence);
        return;
      }
      frame = requestAnimationFrame(look);
    };
    let frame = requestAnimationFrame(() => (frame = requestAnimationFrame(look)));
    return () => cancelAnimationFrame(frame);
  }, [fine, skin, gl]);
  return fine;
}
