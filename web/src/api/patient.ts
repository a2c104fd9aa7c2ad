import { during } from "../underWay"

/** How long the console waits before each further try, in milliseconds. */
const waits = [500, 1500, 4000]

/** A key of one's own for a request; also where the browser gives no UUIDs (not on https). */
function makeKey(): string {
  return Array.from(crypto.getRandomValues(new Uint8Array(16)), (b) => b.toString(16).padStart(2, "0")).join(
    "",
  )
}

const pause = (ms: number) => new Promise((done) => setTimeout(done, ms))

/** Whether a request may have been done without an answer. */
const lost = (r: Response | undefined) =>
  !r || r.status === 503 || (r.status === 409 && r.headers.has("Retry-After"))

/**
 * Sends a request. One that changes something carries a key, and is sent again when nobody
 * knows what became of it: the service does it once.
 */
export function patient(request: Request): Promise<Response> {
  return during(() => sent(request))
}

async function sent(request: Request): Promise<Response> {
  if (request.method === "GET" || request.method === "HEAD") return fetch(request)
  request.headers.set("Idempotency-Key", makeKey())
  for (let attempt = 0; ; attempt++) {
    let answer: Response | undefined
    let broken: unknown
    try {
      answer = await fetch(request.clone())
    } catch (e) {
      broken = e
    }
    if (answer && (attempt === waits.length || !lost(answer))) return answer
    if (attempt === waits.length) throw broken
    await pause(waits[attempt])
  }
}
