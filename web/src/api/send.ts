import { during } from "../underWay"
import { Problem, type Schemas } from "./client"

/** From this size on a file is sent in pieces and goes on where it was cut off (tus 1.0). */
const inPiecesFrom = 8 << 20
const piece = 8 << 20

/** What a file is sent with: the operation, by its id in the interface, and where that is asked for. */
export interface Sending {
  operation: "importKit" | "adoptSite" | "adoptAgain" | "editMedia" | "restoreSite"
  method: string
  url: string
  type: string
  file: File
  headers?: Record<string, string>
  progress: (share: number) => void
}

/** Sends a file, and gives what the operation answers. */
export function send<T>(s: Sending): Promise<T> {
  return during(async () => {
    if (s.file.size < inPiecesFrom) return request<T>(s, s.file)
    return request<T>(s, null, await inPieces(s))
  })
}

/** One request with progress, which fetch cannot tell. */
function request<T>(s: Sending, body: File | null, upload = ""): Promise<T> {
  return new Promise((done, fail) => {
    const x = new XMLHttpRequest()
    x.open(s.method, s.url)
    x.setRequestHeader("Content-Type", s.type)
    for (const [name, v] of Object.entries(s.headers ?? {})) x.setRequestHeader(name, v)
    if (upload) x.setRequestHeader("Upload-Id", upload)
    else x.upload.onprogress = (e) => e.lengthComputable && s.progress(e.loaded / e.total)
    x.onerror = () => fail(brokenOff())
    x.onload = () => {
      const got = parsed(x.responseText)
      if (x.status >= 200 && x.status < 300) done(got as T)
      else fail(new Problem(got as Partial<Schemas["Problem"]>))
    }
    x.send(body)
  })
}

/** Sends a file in pieces and gives the upload's name. The library is fetched when it is first wanted. */
async function inPieces(s: Sending): Promise<string> {
  const { Upload } = await import("tus-js-client")
  const upload = await new Promise<InstanceType<typeof Upload>>((done, fail) => {
    const u: InstanceType<typeof Upload> = new Upload(s.file, {
      endpoint: "/api/v1/uploads",
      metadata: { operation: s.operation },
      chunkSize: piece,
      retryDelays: [500, 1500, 4000, 8000, 15000],
      removeFingerprintOnSuccess: true,
      fingerprint: async () => [s.operation, s.file.name, s.file.size, s.file.lastModified].join("|"),
      onProgress: (sent, total) => s.progress(sent / total),
      onShouldRetry: (e) => {
        const status = e.originalResponse?.getStatus() ?? 0
        return status === 0 || status === 409 || status === 423 || status >= 500
      },
      onError: (e) => {
        const text = "originalResponse" in e ? (e.originalResponse?.getBody() ?? "") : ""
        const got = parsed(text) as Partial<Schemas["Problem"]>
        fail(got.type ? new Problem(got) : brokenOff())
      },
      onSuccess: () => done(u),
    })
    u.findPreviousUploads().then((before) => {
      if (before[0]) u.resumeFromPreviousUpload(before[0])
      u.start()
    }, fail)
  })
  return upload.url?.split("/").pop() ?? ""
}

const brokenOff = () =>
  new Problem({
    type: "unavailable",
    detail: "The connection broke off. Send the file again: it goes on where it was.",
    remedy: { code: "retry" },
  })

function parsed(text: string): unknown {
  try {
    return JSON.parse(text)
  } catch {
    return {}
  }
}
