document.getElementById("about").textContent = data.about.join(" · ");

stages.forEach((stage, at) => {
  document.getElementById("stages").append(make("button", {
    type: "button", "data-stage": stage, title: told("go_to_stage", {key: at + 1}), onclick: () => goToStage(stage),
  }, told(stage)));
});

document.getElementById("stage-keys").hidden = stages.length < 2;
document.getElementById("last-stage-key").textContent = stages.length;
document.getElementById("picture-key").hidden =
  !data.steps.some(step => step.tables.some(table => new Layout(table).hasPictures));

if (data.steps.length > 1) {
  data.steps.forEach((step, at) => {
    document.getElementById("minibatches").append(make("button", {
      type: "button", "data-at": at, onclick: () => goToMinibatch(at),
    }, step.step > 0 ? told("step", step) : told("answer", {number: at + 1})));
  });
}

document.getElementById("back").addEventListener("click", goBack);
document.getElementById("on").addEventListener("click", goOn);
placeBar.addEventListener("input", () => goTo(Number(placeBar.value)));

document.getElementById("ground").addEventListener("click", () => {
  const root = document.documentElement;
  const isDark = root.dataset.ground ? root.dataset.ground === "dark"
    : window.matchMedia("(prefers-color-scheme: dark)").matches;
  root.dataset.ground = isDark ? "light" : "dark";
});

document.addEventListener("keydown", event => {
  if (event.ctrlKey || event.altKey || event.metaKey || event.target.tagName === "INPUT" &&
      event.target.type === "text") return;
  const keys = {
    PageDown: goOn,
    PageUp: goBack,
    Home: () => goTo(0),
    End: () => goTo(minibatch().walk.length - 1),
    n: turnPictures,
  };
  stages.forEach((stage, at) => { keys[String(at + 1)] = () => goToStage(stage); });
  if (!(event.key in keys)) return;
  keys[event.key]();
  event.preventDefault();
});

/* A stroke of the finger across the desk goes on or back. */
let touched = null;
desk.addEventListener("touchstart", event => { touched = event.changedTouches[0]; }, {passive: true});
desk.addEventListener("touchend", event => {
  if (!touched) return;
  const end = event.changedTouches[0];
  const [across, down] = [end.clientX - touched.clientX, end.clientY - touched.clientY];
  if (Math.abs(across) > 60 && Math.abs(across) > 2 * Math.abs(down)) {
    if (across < 0) goOn();
    else goBack();
  }
}, {passive: true});

if (data.run) {
  document.getElementById("run").hidden = false;
  document.querySelector("#run .curves").append(...curvesOf(data.run, data.references));
}
/* page.html#hidden opens at the line with that name; also #∂hidden, and after a step: #50:hidden.
   #hidden[0,2] asks that number. */
function goToAddress() {
  const [place, step] = decodeURIComponent(location.hash.slice(1)).split(":").reverse();
  const [, line, index] = place.match(/^([^[]*)(?:\[([\d,]*)\])?$/) ?? [];
  shown.minibatch = Math.max(0, data.steps.findIndex(each => String(each.step) === step));
  drawSheet();
  goTo(Math.max(0, minibatch().walk.findIndex(entry => entry.name === line)));
  const table = minibatch().tables.findIndex(each => each.name === line);
  if (index === undefined || table < 0) return;
  const {shape} = minibatch().tables[table];
  const positions = index.split(",").map(Number);
  const isThere = positions.length === shape.length && positions.every((at, axis) => at < shape[axis]);
  if (isThere) ask({table, place: positions.reduce((sum, at, axis) => sum * shape[axis] + at, 0)}, true);
}
window.addEventListener("hashchange", goToAddress);
goToAddress();
