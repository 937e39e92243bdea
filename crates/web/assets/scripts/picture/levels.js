// Zoom steps: a step is the square root of two; pictures are rendered at the nearest larger one.
const STEPS = 12;

// the step at which a frame fills a room, both in pixels of the page
export function levelFor([width, height], [roomWidth, roomHeight], ratio = 1) {
  const scale = Math.min(roomWidth / width, roomHeight / height) * ratio;
  const steps = Math.floor(-2 * Math.log2(Math.min(1, scale)) + 1e-6);
  return Math.min(STEPS, Math.max(1, steps));
}
