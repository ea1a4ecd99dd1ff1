/**
 * Tells which frame a player shows, for each one it does: as the browser says of pictures, by the time of what is heard of sound alone.
 * `rate`: frames a second. Returns the way to stop; `tell` stops it too, by false.
 */
export function watchFrames(
  player: HTMLVideoElement,
  { rate, pictures }: { rate: number; pictures: boolean },
  tell: (frame: number) => boolean | void,
): () => void {
  let handle = 0;
  let stopped = false;
  const next = (): void => {
    handle = pictures ? player.requestVideoFrameCallback(seen) : requestAnimationFrame(heard);
  };
  const on = (frame: number): void => {
    if (!stopped && tell(frame) !== false) next();
  };
  const seen = (_: number, { mediaTime }: VideoFrameCallbackMetadata): void =>
    on(Math.floor(mediaTime * rate + 0.5));
  const heard = (): void => on(Math.floor(player.currentTime * rate + 0.001));
  next();
  return () => {
    stopped = true;
    if (pictures) player.cancelVideoFrameCallback(handle);
    else cancelAnimationFrame(handle);
  };
}

/** Where a player is set for a frame to be shown: half a frame in, so that rounding cannot land on its neighbour. Seconds. */
export const timeOfFrame = (frame: number, rate: number): number => (frame + 0.5) / rate;
