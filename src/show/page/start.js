resume();
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

drawSteps();

document.getElementById("network").addEventListener("toggle", drawNetwork);
document.getElementById("back").addEventListener("click", goBack);
document.getElementById("on").addEventListener("click", goOn);
placeBar.addEventListener("input", () => goTo(Number(placeBar.value)));

document.getElementById("ground").addEventListener("click", () => {
  const root = document.documentElement;
  const isDark = root.dataset.ground ? root.dataset.ground === "dark"
    : window.matchMedia("(prefers-color-scheme: dark)").matches;
  root.dataset.ground = isDark ? "light" : "dark";
});

/** What presenters press, where it means nothing else. */
function slideKeys(target) {
  const leave = {Escape: () => turnSlide(false)};
  if (target.closest("td, button, input, summary")) return leave;
  return {...leave, " ": goOn, ArrowRight: goOn, ArrowDown: goOn, ArrowLeft: goBack, ArrowUp: goBack};
}

document.addEventListener("keydown", event => {
  if (termsBox.open && event.key !== "?") return;
  if (event.ctrlKey || event.altKey || event.metaKey || event.target.tagName === "SELECT" ||
      (event.target.tagName === "INPUT" && ["text", "number"].includes(event.target.type))) return;
  const keys = {
    e: editAsked,
    m: goToChangedMost,
    u: putBackOne,
    U: putBackAll,
    PageDown: goOn,
    PageUp: goBack,
    Home: () => goTo(0),
    End: () => goTo(minibatch().walk.length - 1),
    n: turnPictures,
    "?": () => turnTerms(),
    "+": () => zoomBy(1),
    "=": () => zoomBy(1),
    "-": () => zoomBy(-1),
    "−": () => zoomBy(-1),
    0: () => zoomBy(0),
    s: () => turnSlide(),
    ...(view.isSlide ? slideKeys(event.target) : {}),
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
   #hidden[0,2] asks that number. Behind it changes may follow (address.js). */
function goToAddress() {
  const asked = readAddress();
  if (asked.list.length || asked.taken || changes.size) takeChanges(asked.list, asked.taken);
  workAgain();
  drawSteps();
  const [place, step] = asked.place.split(":").reverse();
  const [, line, index] = place.match(/^([^[]*)(?:\[([\d,]*)\])?$/) ?? [];
  shown.minibatch = Math.max(0, data.steps.findIndex(each => String(each.step) === step));
  drawSheet();
  const entry = minibatch().walk.findIndex(each => each.name === line);
  goTo(Math.max(0, entry));
  const spot = index === undefined && entry >= 0 ? undefined : spotCalled(shown.minibatch, place);
  if (spot) ask(spot, true);
  if (asked.isSlide !== view.isSlide) turnSlide(asked.isSlide);
  drawBar();
  drawProgress();
  drawPlaneSoon();
}
window.addEventListener("hashchange", goToAddress);
goToAddress();
