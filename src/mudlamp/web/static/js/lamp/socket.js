// The session's socket: opens a session, connects, and reconnects by itself when the connection drops.

const HEADER_BYTES = 44;
const REFUSED_MS = 4000;
// A session that shows nothing for so long is still starting: after an update everything is made ready first.
const QUIET_MS = 1200;
const STARTING = "Starting. The first time after an update it takes up to a minute.";

export function parseFrame(buffer) {
  const view = new DataView(buffer);
  const beams = view.getUint16(36, true);
  const bins = view.getUint16(38, true);
  return {
    ping: view.getUint32(20, true),
    revision: view.getUint32(24, true),
    timeS: view.getFloat64(28, true),
    beams,
    bins,
    side: view.getUint32(40, true),
    picture: new Uint8Array(buffer, HEADER_BYTES, beams * bins),
  };
}

// What the application says when it closes the socket of a session that is not there any more.
const ENDED = new Set([4404, 4410]);

// What the address asks to be played: a recording, from a second on.
function asked() {
  const query = new URLSearchParams(location.search);
  const recording = query.get("recording");
  if (!recording) return {};
  return { recording, at_s: Number(query.get("at")) || 0, anew: true };
}

export class LampSocket {
  constructor({ onFrame, onText, onLine, onGone }) {
    this.onFrame = onFrame;
    this.onText = onText;
    this.onLine = onLine;
    this.onGone = onGone;
    this.attempts = 0;
    this.open(asked()); // the session that is open, or a new one on the first water
  }

  async open(water) {
    try {
      const answer = await fetch("/api/v1/sessions", {
        method: "POST",
        headers: { "Content-Type": "application/json" },
        body: JSON.stringify(water),
      });
      const body = await answer.json();
      if (water.recording) {
        // The page is the water's that it plays: it is loaded anew, without what it was asked for.
        if (!answer.ok) this.onLine(body.error.message);
        setTimeout(() => location.replace(location.pathname), answer.ok ? 0 : REFUSED_MS);
      } else if (answer.ok) {
        this.session = body.session;
        this.connect();
      } else if (this.session && answer.status === 404) this.onGone(body.error.message, false);
      else this.later(body.error.message, water);
    } catch {
      this.later("No connection to Mud Lamp. Retrying.", water);
    }
  }

  // Makes the session anew: the same water, the set-up that was last on it.
  again() {
    this.onLine("Starting it again…");
    this.open({ again: this.session });
  }

  connect() {
    const scheme = location.protocol === "https:" ? "wss" : "ws";
    this.socket = new WebSocket(`${scheme}://${location.host}/api/v1/live/${this.session}`);
    this.socket.binaryType = "arraybuffer";
    this.socket.onopen = () => {
      this.attempts = 0;
      this.onLine("");
      this.quiet = setTimeout(() => this.onLine(STARTING), QUIET_MS);
    };
    this.socket.onmessage = (event) => {
      const text = typeof event.data === "string" ? JSON.parse(event.data) : null;
      // How it stands is told before its first picture; a frozen one has no new picture to show.
      if (this.quiet && (!text || text.type !== "state" || text.pace === "frozen")) this.hear();
      if (text) this.onText(text);
      else this.onFrame(parseFrame(event.data));
    };
    this.socket.onclose = (event) => {
      clearTimeout(this.quiet);
      if (ENDED.has(event.code)) this.onGone("This session has stopped. Its log is kept.", true);
      else this.later("Lost the connection to Mud Lamp. Retrying; your session is waiting.");
    };
  }

  // The session's first picture: it has started.
  hear() {
    clearTimeout(this.quiet);
    this.quiet = 0;
    this.onLine("");
  }

  later(message, water) {
    this.onLine(message);
    this.attempts += 1;
    clearTimeout(this.timer);
    const again = this.session && !water ? () => this.connect() : () => this.open(water ?? {});
    this.timer = setTimeout(again, Math.min(4000, 300 * 1.6 ** this.attempts));
  }

  send(message) {
    if (this.socket?.readyState !== WebSocket.OPEN) return false;
    this.socket.send(JSON.stringify(message));
    return true;
  }
}
