/** An area of a picture, in px from its upper left corner. */
export interface Area {
  left: number
  top: number
  width: number
  height: number
}

/** An area within a picture: no smaller than one pixel, and none of it beyond. */
export function within(a: Area, width: number, height: number): Area {
  const whole = (n: number, least: number, most: number) =>
    Math.min(Math.max(Math.round(Number.isFinite(n) ? n : least), least), Math.max(least, most))
  const left = whole(a.left, 0, width - 1)
  const top = whole(a.top, 0, height - 1)
  return { left, top, width: whole(a.width, 1, width - left), height: whole(a.height, 1, height - top) }
}

/** The area between two points, as shares of the picture from 0 to 1. */
export function between(
  from: { x: number; y: number },
  to: { x: number; y: number },
  width: number,
  height: number,
): Area {
  const [x0, x1] = [Math.min(from.x, to.x), Math.max(from.x, to.x)].map((n) => Math.min(Math.max(n, 0), 1))
  const [y0, y1] = [Math.min(from.y, to.y), Math.max(from.y, to.y)].map((n) => Math.min(Math.max(n, 0), 1))
  return within(
    { left: x0 * width, top: y0 * height, width: (x1 - x0) * width, height: (y1 - y0) * height },
    width,
    height,
  )
}
