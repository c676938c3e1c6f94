/* The next minibatch, worked here with the weights as they are after the update. */

/** Whether the page has data for one more; not while a blank could be read from its weights. */
const canTakeStep = () => data.steps.length < allSteps.length && !blanks.some(isOpen);

/** Shows one more of the steps whose data the page holds. */
function addStep() { data.steps.push(allSteps[data.steps.length]); }

function takeStep() {
  if (!canTakeStep()) return;
  addStep();
  workAgain();
  drawSteps();
  goToMinibatch(data.steps.length - 1);
  drawChanged();
}

/** The steps that can be shown, and one more to take. */
function drawSteps() {
  const box = document.getElementById("minibatches");
  const buttons = data.steps.length < 2 ? [] : data.steps.map((_, at) =>
    make("button", {type: "button", "data-at": at, "aria-pressed": at === shown.minibatch, onclick: () => goToMinibatch(at)}, stepName(at)));
  if (canTakeStep()) {
    buttons.push(make("button", {type: "button", id: "take-step", title: told("take_step_help"), onclick: takeStep},
                      told("take_step", allSteps[data.steps.length])));
  }
  box.replaceChildren(...buttons);
}

/** The result by step, as it was without changes and as it is. */
function drawProgress() {
  const box = document.getElementById("progress");
  const points = numbersOf => data.steps.map((step, at) => {
    const table = step.tables.findIndex(each => each.kind === "value" && each.name === step.result);
    return [step.step, numbersOf(stepNumbers[at], table)[0]];
  });
  box.hidden = data.steps.length < 2 || data.steps[0].step === 0 || data.shown === data.steps.length && !changes.size;
  if (box.hidden) return;
  const now = points((numbers, table) => numbers.now(table));
  const before = points((numbers, table) => numbers.stored(table));
  const curves = [{word: "running", label: told("before_changes"), points: before},
                  {word: "train", label: told("now"), points: now}];
  const shownCurves = changes.size ? curves : [{...curves[1], label: told("minibatch")}];
  const title = told("result_by", {result: data.steps[0].result, across: told("by_step")});
  box.querySelector(".curves").replaceChildren(drawCurves(title, told("by_step"), shownCurves, [], 0));
}
