/** Marks of notes: what deserves an ear, what is strained, what is left as sung. */

import type { Theme } from "../theme";

export function drawFlag(ctx: CanvasRenderingContext2D, theme: Theme, x: number, y: number): void {
  ctx.fillStyle = theme.flag;
  ctx.beginPath();
  ctx.moveTo(x - 3, y - 5);
  ctx.lineTo(x + 5, y - 1.5);
  ctx.lineTo(x - 1.5, y + 2);
  ctx.lineTo(x - 1.5, y + 6);
  ctx.lineTo(x - 3, y + 6);
  ctx.fill();
}

/** A frayed line under a strained note. */
export function drawFray(ctx: CanvasRenderingContext2D, theme: Theme, x: number, y: number, width: number): void {
  ctx.strokeStyle = theme.flag;
  ctx.lineWidth = 1;
  ctx.beginPath();
  for (let at = 0; at <= width; at += 3) ctx.lineTo(x + at, y + (at % 6 === 0 ? 0 : 3));
  ctx.stroke();
}

/** A thread tied at both ends of the rail: the note is left as sung. */
export function drawTied(ctx: CanvasRenderingContext2D, theme: Theme, from: number, to: number, y: number): void {
  ctx.strokeStyle = theme.ink;
  ctx.fillStyle = theme.sheet;
  ctx.lineWidth = 1.25;
  for (const x of [from, to]) {
    ctx.beginPath();
    ctx.arc(x, y, 3.25, 0, 2 * Math.PI);
    ctx.fill();
    ctx.stroke();
  }
}
