// The list of waters: stock scenes, your own scene file, recordings.

import { asked, follow, post, upload } from "../shared/jobs.js";

export class Waters {
  constructor(dialog, { session }) {
    this.dialog = dialog;
    this.session = session;
    this.find = (id) => document.getElementById(id);
    this.find("open-waters").addEventListener("click", () => this.open());
    dialog.addEventListener("click", (event) => this.clicked(event));
    this.find("scene-file").addEventListener("change", (event) => this.openScene(event.target));
    this.find("recording-file").addEventListener("change", (event) => this.openRecording(event.target));
    this.find("job-cancel").addEventListener("click", () => this.stop?.());
  }

  open() {
    const session = this.session();
    for (const [id, path] of [["scene-save", "scene.json"], ["picture-save", "picture.png"]]) {
      const link = this.find(id);
      if (link && session) link.href = `/api/v1/sessions/${session}/${path}`;
    }
    if (!this.dialog.open) this.dialog.showModal();
  }

  clicked(event) {
    const button = event.target.closest("button");
    if (!button) return;
    if ("close" in button.dataset) this.dialog.close();
    if (button.dataset.scene) this.go({ scene: button.dataset.scene });
    if (button.dataset.play) this.go({ recording: button.dataset.play });
    if (button.dataset.bench === "save") this.save();
  }

  say(message) {
    this.find("waters-error").textContent = message;
  }

  // Opens another water and loads the page on it; a refusal shows and nothing changes.
  async go(water) {
    this.say("");
    try {
      await post("/api/v1/sessions", { ...water, anew: true });
      location.reload();
    } catch (error) {
      this.say(error.message);
    }
  }

  async openScene(input) {
    const [file] = input.files;
    input.value = "";
    if (!file) return;
    let scene;
    try {
      scene = JSON.parse(await file.text());
    } catch {
      this.say(`${file.name} is not JSON: it must be a scene file.`);
      return;
    }
    await this.go({ scene_file: scene });
  }

  async openRecording(input) {
    const [file] = input.files;
    input.value = "";
    if (!file) return;
    const sent = upload(`/api/v1/recordings?name=${encodeURIComponent(file.name)}`, file, (share) => this.progress(`Reading ${file.name}`, share));
    this.stop = sent.stop;
    await this.work(sent.done.then((one) => this.progress(`${one.name} is in the library`, 1)));
  }

  async save() {
    this.open();
    await this.work(
      post(`/api/v1/sessions/${this.session()}/minute`, { name: `${new Date().toLocaleString([], { dateStyle: "medium", timeStyle: "short" })}` }).then(async (job) => {
        this.stop = () => asked(`/api/v1/jobs/${job.id}`, { method: "DELETE" });
        const end = await follow(job, (now) => this.progress("Saving the last minute", now.share));
        if (end.state === "failed") throw new Error(end.error);
        this.progress(end.state === "done" ? "The minute is saved below" : "Canceled: nothing was saved", end.share);
      }),
    );
  }

  async work(promise) {
    this.say("");
    try {
      await promise;
      document.body.dispatchEvent(new CustomEvent("recordings:changed"));
    } catch (error) {
      this.find("job").hidden = true;
      this.say(error.message);
    }
    this.find("job-cancel").hidden = true;
  }

  progress(text, share) {
    this.find("job").hidden = false;
    this.find("job-cancel").hidden = share >= 1;
    this.find("job-progress").value = share;
    this.find("job-text").textContent = text;
  }
}
