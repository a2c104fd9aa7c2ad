/** What a zipped folder holds, as far as it is shown before it is sent. */
export interface ZipHolds {
  files: number
  pages: string[]
  /** Some of its pictures, to be shown; their addresses are to be revoked. */
  pictures: { name: string; url: string }[]
}

const kinds: Record<string, string> = {
  svg: "image/svg+xml",
  png: "image/png",
  jpg: "image/jpeg",
  jpeg: "image/jpeg",
  webp: "image/webp",
  gif: "image/gif",
}
const most = 8
const largest = 3 << 20

/** Reads the list of a zip file and some of its pictures, not the whole of it; null where it is none. */
export async function zipHolds(file: Blob): Promise<ZipHolds | null> {
  const zip = await import("@zip.js/zip.js")
  zip.configure({ useWebWorkers: false })
  try {
    const reader = new zip.ZipReader(new zip.BlobReader(file))
    const list = (await reader.getEntries()).filter((e) => !e.directory)
    const out: ZipHolds = { files: list.length, pages: [], pictures: [] }
    for (const e of list) {
      const end = e.filename.split(".").at(-1)?.toLowerCase() ?? ""
      if (end === "html" || end === "htm") out.pages.push(e.filename)
      if (!kinds[end] || out.pictures.length >= most || e.uncompressedSize > largest || e.directory) continue
      const bytes = await e.getData(new zip.BlobWriter(kinds[end]))
      out.pictures.push({ name: e.filename, url: URL.createObjectURL(bytes) })
    }
    await reader.close()
    return out
  } catch {
    return null
  }
}
