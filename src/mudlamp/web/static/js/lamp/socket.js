// The session's socket: opens a session, connects, and reconnects by itself when the connection drops.

const HEADER_BYTES = 44;

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

export class LampSocket {
  constructor({ onFrame, onText, onLine }) {
    this.onFrame = onFrame;
    this.onText = onText;
    this.onLine = onLine;
    this.attempts = 0;
    this.open();
  }

  async open() {
    let session;
    try {
      const answer = await fetch("/api/v1/sessions", {
        method: "POST",
        headers: { "Content-Type": "application/json" },
        body: "{}", // the session that is open, or a new one on the first water
      });
      const body = await answer.json();
      if (!answer.ok) {
        this.later(body.error.message);
        return;
      }
      session = this.session = body.session;
    } catch {
      this.later("No connection to Mud Lamp. Retrying.");
      return;
    }
    this.connect(session);
  }

  connect(session) {
    const scheme = location.protocol === "https:" ? "wss" : "ws";
    this.socket = new WebSocket(`${scheme}://${location.host}/api/v1/live/${session}`);
    this.socket.binaryType = "arraybuffer";
    this.socket.onopen = () => {
      this.attempts = 0;
      this.onLine("");
    };
    this.socket.onmessage = (event) => {
      if (typeof event.data === "string") this.onText(JSON.parse(event.data));
      else this.onFrame(parseFrame(event.data));
    };
    this.socket.onclose = () => this.later("Lost the connection to Mud Lamp. Reconnecting; your session is waiting.");
  }

  later(message) {
    this.onLine(message);
    this.attempts += 1;
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.open(), Math.min(4000, 300 * 1.6 ** this.attempts));
  }

  send(message) {
    if (this.socket?.readyState !== WebSocket.OPEN) return false;
    this.socket.send(JSON.stringify(message));
    return true;
  }
}
