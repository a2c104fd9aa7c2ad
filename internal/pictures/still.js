// Runs before a page's own scripts: the clock stands still and chance is always the same, so that a page looks
// the same whenever a picture of it is made.
(() => {
  const now = Date.UTC(2026, 0, 15, 9, 30)
  const Real = Date
  class Still extends Real {
    constructor(...args) {
      super(...(args.length ? args : [now]))
    }
    static now() {
      return now
    }
  }
  globalThis.Date = Still
  let seed = 7
  Math.random = () => (seed = (seed * 16807) % 2147483647) / 2147483647
  for (const name of ["RTCPeerConnection", "webkitRTCPeerConnection", "WebSocket", "WebTransport", "EventSource"]) {
    try {
      delete globalThis[name]
    } catch {
      // it is not there
    }
  }
})()
