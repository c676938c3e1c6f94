/*
 * How large everything is, and the page as slides: one line at a time, as large as the window allows.
 */
const sizes = [0.5, 0.6, 0.7, 0.8, 0.9, 1, 1.1, 1.25, 1.5, 1.75, 2, 2.5, 3];
const view = {zoom: 1, isSlide: false};

const setSize = size => { document.documentElement.style.fontSize = `${(100 * size).toFixed(1)}%`; };

/** Everything so many sizes larger, or smaller; 0 for the usual one. */
function zoomBy(by) {
  const at = sizes.indexOf(view.zoom);
  view.zoom = by === 0 ? 1 : sizes[Math.max(0, Math.min(at + by, sizes.length - 1))];
  remember("zoom", view.zoom);
  drawAgain();
  say(told("zoomed", {percent: Math.round(100 * view.zoom)}));
}

/** Draws the line anew in another size of the window, or of what is in it. */
function drawAgain() {
  setSize(view.zoom);
  redraw();
  revealAsked();
}

/** Whether a slide of this size shows all that is on it, without scrolling; a small one may be wider. */
function slideFits(size) {
  const root = document.documentElement;
  setSize(size);
  if (root.scrollHeight > window.innerHeight) return false;
  if (size < 0.9) return true;
  return [...document.querySelectorAll("#desk > h2, #desk number-table, #why .row")]
    .every(each => each.scrollWidth <= each.clientWidth);
}

/** As large as everything on the slide can be seen, times the zoom. */
function fitSlide() {
  let [fits, exceeds] = [0.6, 4];
  if (slideFits(exceeds)) fits = exceeds;
  while (exceeds - fits > 0.03) {
    const size = (fits + exceeds) / 2;
    if (slideFits(size)) fits = size;
    else exceeds = size;
  }
  setSize(fits * view.zoom);
}

/** The slide, or the whole page. */
function turnSlide(isSlide = !view.isSlide) {
  view.isSlide = isSlide;
  document.documentElement.toggleAttribute("data-slide", isSlide);
  document.getElementById("slide").setAttribute("aria-pressed", isSlide);
  window.scrollTo(0, 0);
  drawAgain();
  keepAddress();
  say(told(isSlide ? "slide_on" : "slide_off"));
}

view.zoom = sizes.find(each => String(each) === remembered("zoom")) ?? 1;
setSize(view.zoom);
document.getElementById("smaller").addEventListener("click", () => zoomBy(-1));
document.getElementById("larger").addEventListener("click", () => zoomBy(1));
document.getElementById("slide").addEventListener("click", () => turnSlide());
// Not while something is typed: a keyboard on the screen changes the window, too.
window.addEventListener("resize", () => { if (document.activeElement.tagName !== "INPUT") drawAgain(); });
