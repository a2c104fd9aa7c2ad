/** The colours that a picture is made of, the most frequent first, no two of them alike: #rrggbb. */
export function coloursOf(pixels: Uint8ClampedArray, most = 6): string[] {
  const boxes = new Map<number, { n: number; r: number; g: number; b: number }>()
  for (let i = 0; i + 3 < pixels.length; i += 4) {
    if (pixels[i + 3] < 128) continue
    const key = ((pixels[i] >> 5) << 6) | ((pixels[i + 1] >> 5) << 3) | (pixels[i + 2] >> 5)
    const box = boxes.get(key) ?? { n: 0, r: 0, g: 0, b: 0 }
    box.n++
    box.r += pixels[i]
    box.g += pixels[i + 1]
    box.b += pixels[i + 2]
    boxes.set(key, box)
  }
  const out: number[][] = []
  for (const { n, r, g, b } of [...boxes.values()].sort((a, b) => b.n - a.n)) {
    const c = [r / n, g / n, b / n]
    if (out.every((o) => Math.hypot(o[0] - c[0], o[1] - c[1], o[2] - c[2]) > 48)) out.push(c)
    if (out.length === most) break
  }
  return out.map((c) => "#" + c.map((v) => Math.round(v).toString(16).padStart(2, "0")).join(""))
}

/** The colours of a picture file; an error where browsers show no such picture. */
export async function coloursOfFile(file: Blob): Promise<string[]> {
  const bitmap = await createImageBitmap(file)
  const scale = Math.min(1, 96 / Math.max(bitmap.width, bitmap.height))
  const canvas = new OffscreenCanvas(
    Math.max(1, Math.round(bitmap.width * scale)),
    Math.max(1, Math.round(bitmap.height * scale)),
  )
  const on = canvas.getContext("2d")
  if (!on) return []
  on.drawImage(bitmap, 0, 0, canvas.width, canvas.height)
  bitmap.close()
  return coloursOf(on.getImageData(0, 0, canvas.width, canvas.height).data)
}

/** A colour as browsers compute it (rgb(), or #rrggbb) as #rrggbb; empty where it is see-through or none of these. */
export function hexOf(colour: string): string {
  if (/^#[0-9a-f]{6}$/i.test(colour)) return colour.toLowerCase()
  const parts =
    /^rgba?\(([^)]*)\)$/
      .exec(colour)?.[1]
      .split(/[\s,/]+/)
      .map(Number) ?? []
  if (parts.length < 3 || parts.some(Number.isNaN) || (parts[3] ?? 1) === 0) return ""
  return (
    "#" +
    parts
      .slice(0, 3)
      .map((v) => Math.round(v).toString(16).padStart(2, "0"))
      .join("")
  )
}
