/* Moves of a pointer as they come: a browser that has `pointerrawupdate` tells them before it
   gathers them for its next frame, which is half a frame earlier and more where frames are slow. */

const AGAIN_MS = 8;

/** Hear of the moves of a pointer that an element holds, until the answer is called. */
export function hearMoves(target: EventTarget, onMove: (event: PointerEvent) => void): () => void {
  let before = 0;
  const hear = (event: Event) => {
    // A quick mouse tells a thousand a second; what is shown follows a hundred at most.
    if (event.timeStamp - before < AGAIN_MS) return;
    before = event.timeStamp;
    onMove(event as PointerEvent);
  };
  target.addEventListener("pointerrawupdate", hear);
  return () => target.removeEventListener("pointerrawupdate", hear);
}
