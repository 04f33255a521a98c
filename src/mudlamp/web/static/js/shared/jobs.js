// Long work: started by a request, watched until it is over, to be cancelled.

const LOOK_MS = 400;

export async function asked(path, options = {}) {
  const answer = await fetch(path, options);
  const body = await answer.json();
  if (!answer.ok) throw new Error(body.error?.message ?? "That did not work.");
  return body;
}

export function post(path, values) {
  return asked(path, { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(values) });
}

// Follows a job, reporting each step; ends with its last state.
export async function follow(job, report) {
  let now = job;
  while (now.state === "waiting" || now.state === "running") {
    report(now);
    await new Promise((done) => setTimeout(done, LOOK_MS));
    now = await asked(`/api/v1/jobs/${now.id}`);
  }
  report(now);
  return now;
}

// Sends a file as it is, reporting progress; fetch cannot report that.
export function upload(path, file, report) {
  const request = new XMLHttpRequest();
  const done = new Promise((fulfil, fail) => {
    request.upload.onprogress = (event) => report(event.loaded / Math.max(event.total, 1));
    request.onload = () => {
      const body = JSON.parse(request.responseText || "{}");
      if (request.status < 300) fulfil(body);
      else fail(new Error(body.error?.message ?? "The file was refused."));
    };
    request.onerror = () => fail(new Error("The connection dropped during the upload. Try again."));
    request.onabort = () => fail(new Error("Canceled: nothing was saved."));
    request.open("POST", path);
    request.send(file);
  });
  return { done, stop: () => request.abort() };
}
