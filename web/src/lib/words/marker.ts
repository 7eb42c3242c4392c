/** Corners of the markers with straight sides, in shares of the radius. */
const outlines: Record<string, [number, number][]> = {
  square: [
    [-0.8, -0.8],
    [0.8, -0.8],
    [0.8, 0.8],
    [-0.8, 0.8]
  ],
  frame: [
    [-0.7, -0.7],
    [0.7, -0.7],
    [0.7, 0.7],
    [-0.7, 0.7]
  ],
  triangle: [
    [0, -1],
    [1, 0.8],
    [-1, 0.8]
  ],
  diamond: [
    [0, -1],
    [1, 0],
    [0, 1],
    [-1, 0]
  ],
  bar: [
    [-1, -0.4],
    [1, -0.4],
    [1, 0.4],
    [-1, 0.4]
  ],
  cross: [
    [-0.8, -0.8],
    [0.8, 0.8],
    [0, 0],
    [0.8, -0.8],
    [-0.8, 0.8],
    [0, 0]
  ]
};
const hollow = ['ring', 'frame', 'cross'];

/** The class's sign at a mark, as in Marker.svelte, on a dark disc. */
export function paintMarker(c: CanvasRenderingContext2D, marker: string, color: string, x: number, y: number, r: number): void {
  c.fillStyle = '#171b1a';
  c.beginPath();
  c.arc(x, y, r + 2, 0, 7);
  c.fill();
  c.fillStyle = c.strokeStyle = color;
  c.lineWidth = 1.8;
  c.beginPath();
  const outline = outlines[marker];
  if (outline) {
    for (const [dx, dy] of outline) c.lineTo(x + dx * r, y + dy * r);
    c.closePath();
  } else c.arc(x, y, marker === 'ring' ? r - 1 : r, 0, 7);
  if (hollow.includes(marker)) c.stroke();
  else c.fill();
}
