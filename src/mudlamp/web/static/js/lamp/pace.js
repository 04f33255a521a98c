// How fast the page runs: new pictures a second, dropped frames, and from a moved control to the first picture drawn under it.

export class Pace {
  constructor(root) {
    this.pictures = root.querySelector('[data-reading="pictures-per-second"]');
    this.dropped = root.querySelector('[data-reading="dropped-frames"]');
    this.latency = root.querySelector('[data-reading="control-to-picture-ms"]');
    this.drawn = [];
    this.lost = 0;
    this.lastPing = null;
    this.waiting = new Map(); // sequence number -> when the control was moved
    this.due = []; // [revision, when moved]
    this.times = [];
  }

  moved(seq) {
    this.waiting.set(seq, performance.now());
  }

  acknowledged(seqs, revision) {
    for (const seq of seqs) {
      const at = this.waiting.get(seq);
      if (at !== undefined) this.due.push([revision, at]);
      this.waiting.delete(seq);
    }
  }

  drew(frame) {
    const now = performance.now();
    if (this.lastPing !== null && frame.ping > this.lastPing + 1) this.lost += frame.ping - this.lastPing - 1;
    this.lastPing = frame.ping;
    this.drawn.push(now);
    while (now - this.drawn[0] > 3000) this.drawn.shift();
    this.due = this.due.filter(([revision, at]) => {
      if (frame.revision < revision) return true;
      this.times.push(now - at);
      return false;
    });
    this.times = this.times.slice(-50);
    this.show(now);
  }

  show(now) {
    if (now - (this.shown ?? 0) < 500) return;
    this.shown = now;
    const span = (this.drawn[this.drawn.length - 1] - this.drawn[0]) / 1000;
    this.pictures.textContent = span > 0.5 ? ((this.drawn.length - 1) / span).toFixed(1) : "–";
    this.dropped.textContent = String(this.lost);
    const sorted = [...this.times].sort((a, b) => a - b);
    this.latency.textContent = sorted.length ? String(Math.round(sorted[Math.min(sorted.length - 1, Math.ceil(0.95 * sorted.length) - 1)])) : "–";
  }
}
