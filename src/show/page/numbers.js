"use strict";

const data = JSON.parse(document.getElementById("data").textContent);

/** A sentence with numbers and names in its {gaps}; and one that is known by its name. */
const filled = (sentence, parts) => sentence.replace(/\{(\w+)\}/g, (_, gap) => parts[gap]);
const told = (name, parts = {}) => filled(data.words[name], parts);

/** A number of a table: NaN and infinity come as texts. */
function asNumber(entry) {
  if (typeof entry === "number") return entry;
  return entry === "NaN" ? NaN : entry.startsWith("−") ? -Infinity : Infinity;
}

/** Rounds to so many significant digits, halves to the even digit, as [digits, power of ten]. */
function rounded(size, digits) {
  const spare = 25;
  const [all, power] = size.toExponential(digits - 1 + spare).split("e");
  const tail = all.slice(-spare);
  if (tail !== "5".padEnd(spare, "0")) {
    const [kept, exponent] = size.toExponential(digits - 1).split("e");
    return [kept.replace(".", ""), Number(exponent)];
  }
  const kept = all.replace(".", "").slice(0, digits);
  const isOdd = Number(kept.at(-1)) % 2 === 1;
  return isOdd ? rounded(size * (1 + 1e-12), digits) : [kept, Number(power)];
}

/** The nearest whole number, halves to the even one. */
function toWhole(size) {
  const below = Math.floor(size);
  const rest = size - below;
  return rest > 0.5 || (rest === 0.5 && below % 2 === 1) ? below + 1 : below;
}

/** A number for reading, as the terminal writes it: 0.31, −2.5, 1.2e−7. */
function formatNumber(number, digits = data.digits) {
  if (Number.isNaN(number)) return "NaN";
  const sign = number < 0 ? "−" : "";
  const size = Math.abs(number);
  if (size === Infinity) return sign + "∞";
  if (size === 0) return "0";
  if (digits >= 17) return sign + String(size).replace("e-", "e−").replace("e+", "e");
  if (size >= 10 ** digits && size < 1e9) return sign + String(toWhole(size));
  const [kept, power] = rounded(size, digits);
  const trim = text => text.includes(".") ? text.replace(/\.?0*$/, "") : text;
  if (power < -4 || power >= digits) {
    const mantissa = trim(kept[0] + "." + kept.slice(1));
    return `${sign}${mantissa}e${power < 0 ? "−" : ""}${Math.abs(power)}`;
  }
  if (power < 0) return sign + trim("0." + "0".repeat(-power - 1) + kept);
  return sign + trim(kept.slice(0, power + 1) + "." + kept.slice(power + 1));
}

/** The largest number by size, of those that are finite; 0 where there is none. */
function largestOf(numbers) {
  let largest = 0;
  for (const number of numbers) if (Number.isFinite(number)) largest = Math.max(largest, Math.abs(number));
  return largest;
}

/** What a student typed, as a number: digits, or sums and fractions of them, such as (0,3 − 1)/4; null
    when it is none. */
function parseTyped(text) {
  const plain = text.replace(/−/g, "-").replace(/[·×]/g, "*").replace(/,/g, ".").replace(/\s+/g, "");
  const tokens = plain.match(/(\d+\.?\d*|\.\d+)(e[+-]?\d+)?|[-+*/^()]/gi) ?? [];
  if (tokens.join("").length !== plain.length || tokens.length > 200) return null;
  let at = 0;
  const takes = sign => tokens[at] === sign && ++at > 0;
  const sum = () => {
    let total = product();
    for (;;) {
      if (takes("+")) total += product();
      else if (takes("-")) total -= product();
      else return total;
    }
  };
  const product = () => {
    let total = signed();
    for (;;) {
      if (takes("*")) total *= signed();
      else if (takes("/")) total /= signed();
      else return total;
    }
  };
  const signed = () => takes("-") ? -signed() : takes("+") ? signed() : power();
  const power = () => {
    const base = single();
    return takes("^") ? base ** signed() : base;
  };
  const single = () => {
    if (takes("(")) {
      const inner = sum();
      return takes(")") ? inner : NaN;
    }
    return at < tokens.length && /[\d.]/.test(tokens[at]) ? Number(tokens[at++]) : NaN;
  };
  const number = sum();
  return at === tokens.length && Number.isFinite(number) ? number : null;
}

/** The place of an offset along each axis of a shape. */
function indexOf(shape, offset) {
  const index = new Array(shape.length);
  for (let axis = shape.length - 1; axis >= 0; --axis) {
    index[axis] = offset % shape[axis];
    offset = Math.floor(offset / shape[axis]);
  }
  return index;
}

/** The minibatch that is shown; `spot` is always {table, place} in it. */
const shown = {minibatch: 0, entry: 0, asked: null, trail: [], asNumbers: false};
const minibatch = () => data.steps[shown.minibatch];
const tableOf = spot => minibatch().tables[spot.table];
const numberAt = spot => tableOf(spot).numbers[spot.place];

/** A number's name: hidden[0,2]. */
function nameOf(spot) {
  const table = tableOf(spot);
  const index = indexOf(table.shape, spot.place);
  return table.name + (index.length ? `[${index.join(",")}]` : "");
}

/** An element with attributes and content. */
function make(tag, attributes = {}, ...content) {
  const element = document.createElement(tag);
  for (const [name, value] of Object.entries(attributes)) {
    if (name.startsWith("on")) element.addEventListener(name.slice(2), value);
    else if (value !== null) element.setAttribute(name, value);
  }
  element.append(...content);
  return element;
}

/** The colour of a class, everywhere the same. */
const colourOf = number => data.colours[number % data.colours.length];

/** Classes beside their colours, and words behind them. */
function legendOf(classes, ...words) {
  const names = classes.map((name, at) => {
    const mark = make("i");
    mark.style.background = colourOf(at);
    return make("span", {}, mark, name);
  });
  return [...names, ...words];
}

function say(text) {
  document.getElementById("said").textContent = text;
}
