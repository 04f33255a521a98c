// Named set-ups: save the current controls under a name, load one, delete it.

import { asked, post } from "../shared/jobs.js";

export class Setups {
  constructor({ rail, controls }) {
    this.rail = rail;
    this.controls = controls;
    this.list = document.getElementById("setup-list");
    this.name = document.getElementById("setup-name");
    document.getElementById("setup-save").addEventListener("click", () => this.save());
    this.name.addEventListener("keydown", (event) => event.key === "Enter" && this.save());
    document.getElementById("setups").addEventListener("toggle", () => this.load());
    this.list.addEventListener("click", (event) => this.clicked(event));
    this.known = [];
  }

  say(message) {
    document.getElementById("setup-error").textContent = message;
  }

  async tried(work) {
    this.say("");
    try {
      await work();
    } catch (error) {
      this.say(error.message);
    }
  }

  load() {
    return this.tried(async () => {
      this.known = (await asked("/api/v1/setups")).setups;
      this.list.replaceChildren(...this.known.map((one) => this.row(one)));
    });
  }

  row(setup) {
    const item = document.createElement("li");
    for (const [what, text] of [["take", setup.name], ["drop", "Delete"]]) {
      const button = document.createElement("button");
      button.type = "button";
      button.className = what === "take" ? "setup-take" : "setup-drop";
      button.dataset[what] = setup.id;
      button.textContent = text;
      if (what === "drop") button.setAttribute("aria-label", `Delete ${setup.name}`);
      item.append(button);
    }
    return item;
  }

  save() {
    const name = this.name.value.trim();
    if (!name) {
      this.say("Name it first.");
      return;
    }
    this.tried(async () => {
      await post("/api/v1/setups", { name, values: this.controls() });
      this.name.value = "";
      await this.load();
    });
  }

  clicked(event) {
    const { take, drop } = event.target.dataset;
    const setup = this.known.find((one) => one.id === take);
    if (setup) this.rail.setAll(setup.values);
    if (drop) this.tried(async () => (await asked(`/api/v1/setups/${drop}`, { method: "DELETE" }), this.load()));
  }
}
