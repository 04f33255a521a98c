// Asking the server: one place for errors. What goes wrong is said in the page's notice, and null comes back.

const BASE = "/api/v1/find";

function say(text) {
  document.getElementById("notice").textContent = text;
}

async function trouble(answer) {
  let text = `The server answered ${answer.status}.`;
  try {
    const body = await answer.json();
    text = body.error ?? body.message ?? (typeof body.detail === "string" ? body.detail : text);
  } catch {
    // No JSON: the status is all there is to say.
  }
  say(text);
  return null;
}

export async function ask(path, { method = "GET", body } = {}) {
  try {
    const answer = await fetch(BASE + path, { method, headers: body ? { "Content-Type": "application/json" } : {}, body: body ? JSON.stringify(body) : undefined });
    if (!answer.ok) return await trouble(answer);
    say("");
    return await answer.json();
  } catch {
    say("No answer from the server: is it running?");
    return null;
  }
}

export async function sendFile(path, file) {
  try {
    const answer = await fetch(BASE + path, { method: "POST", headers: { "Content-Type": "application/geo+json" }, body: file });
    return answer.ok ? await answer.json() : await trouble(answer);
  } catch {
    return null;
  }
}

export async function columns(view, first, last, knobs) {
  const query = new URLSearchParams({ view, first, last, ...knobs });
  try {
    const answer = await fetch(`${BASE}/columns?${query}`);
    if (!answer.ok) return await trouble(answer);
    return { first: Number(answer.headers.get("X-First")), count: Number(answer.headers.get("X-Count")), data: new Uint8Array(await answer.arrayBuffer()) };
  } catch {
    return null;
  }
}

export async function scan(reachFt, knobs) {
  try {
    const answer = await fetch(`${BASE}/all-round?${new URLSearchParams({ reach_ft: reachFt, ...knobs })}`);
    if (!answer.ok) return await trouble(answer);
    return { steps: Number(answer.headers.get("X-Steps")), bins: Number(answer.headers.get("X-Bins")), data: new Uint8Array(await answer.arrayBuffer()) };
  } catch {
    return null;
  }
}

export async function points(first) {
  try {
    const answer = await fetch(`${BASE}/points?first=${first}`);
    return answer.ok ? new Float32Array(await answer.arrayBuffer()) : await trouble(answer);
  } catch {
    return null;
  }
}

export function bytes(base64) {
  return Uint8Array.from(atob(base64), (letter) => letter.charCodeAt(0));
}
