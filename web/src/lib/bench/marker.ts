/** The class's sign at a mark, as in Marker.svelte. */
export function paintMarker(c: CanvasRenderingContext2D, marker: string, color: string, x: number, y: number, r: number): void {
  c.save();
  c.translate(x, y);
  c.fillStyle = '#171b1a';
  c.beginPath();
  c.arc(0, 0, r + 2, 0, 7);
  c.fill();
  c.fillStyle = c.strokeStyle = color;
  c.lineWidth = 1.8;
  c.beginPath();
  if (marker === 'circle' || marker === 'ring') c.arc(0, 0, marker === 'ring' ? r - 1 : r, 0, 7);
  else if (marker === 'square' || marker === 'frame') c.rect(-r + 1, -r + 1, 2 * r - 2, 2 * r - 2);
  else if (marker === 'triangle') [c.moveTo(0, -r), c.lineTo(r, r - 1), c.lineTo(-r, r - 1), c.closePath()];
  else if (marker === 'diamond') [c.moveTo(0, -r), c.lineTo(r, 0), c.lineTo(0, r), c.lineTo(-r, 0), c.closePath()];
  else if (marker === 'cross') [c.moveTo(-r + 1, -r + 1), c.lineTo(r - 1, r - 1), c.moveTo(r - 1, -r + 1), c.lineTo(-r + 1, r - 1)];
  else c.rect(-r, -r / 2.4, 2 * r, r / 1.2);
  if (marker === 'ring' || marker === 'frame' || marker === 'cross') c.stroke();
  else c.fill();
  c.restore();
}
