/*
 * How numbers are made. A pattern is a list of [skeleton, gaps] or [skeleton, gaps, box]; a skeleton
 * is a nested list such as ["+", ["*", "#", "#"], "#"], whose "#" are filled in order. In it,
 * ["each", n, term…] stands for the terms n times over, and ["pick", which, option…] for the one of
 * the options whose number `which` gives. A box is [from, count, step] along each axis.
 */

/** How far on something is, so many positions along each axis. */
const movedBy = (strides, positions) =>
  strides.reduce((sum, stride, axis) => sum + stride * positions[axis], 0);

/** Where a number is in a box, along each axis; null where it is outside. */
function positionIn(box, index) {
  if (!box) return index;
  const positions = index.map((at, axis) => (at - box[axis][0]) / box[axis][2]);
  const isInside = positions.every(
    (position, axis) => Number.isInteger(position) && position >= 0 && position < box[axis][1]);
  return isInside ? positions : null;
}

/** Fills a skeleton for the number at a position of its box. */
class Filling {
  constructor(gaps, position) {
    this.gaps = gaps;
    this.position = position;
    this.next = 0;
    this.times = [];
    this.shorthands = [];
  }

  gap() {
    const [table, first, byPlace = [], byTime = []] = this.gaps[this.next++];
    const place = first + movedBy(byPlace, this.position) + movedBy(byTime, this.times);
    return table === null ? place : {table, place};
  }

  part(part) {
    if (part === "#") return this.gap();
    if (!Array.isArray(part)) return part;
    if (part[0] === "again") return this.shorthands.at(-part[1]);
    if (part[0] === "pick") return this.pick(part.slice(1));
    const named = part[0] === "f" || part[0] === "if" || part[0] === "let" ? 2 : 1;
    const filled = part.slice(0, named);
    if (part[0] === "let") this.shorthands.push(filled);
    filled.push(...this.parts(part.slice(named)));
    return filled;
  }

  /** The option that is picked, as if it had stood there alone. */
  pick(parts) {
    const [which, ...options] = this.parts(parts);
    return options[evaluate(which)] ?? NaN;
  }

  parts(parts) {
    const isEach = part => Array.isArray(part) && part[0] === "each";
    return parts.flatMap(part => (isEach(part) ? this.each(part) : [this.part(part)]));
  }

  /** Terms over and over: the same gaps each time, so much farther on. */
  each([, times, ...terms]) {
    const first = this.next;
    const all = [];
    for (let time = 0; time < times; ++time) {
      this.next = first;
      this.times.push(time);
      all.push(...this.parts(terms));
      this.times.pop();
    }
    return all;
  }
}

/** The formula that a pattern has for a place. */
function formulaBy(pattern, shape, place) {
  const index = indexOf(shape, place);
  for (const [skeleton, gaps, box] of data.patterns[pattern]) {
    const position = positionIn(box, index);
    if (position) return withoutMissing(new Filling(gaps, position).part(data.skeletons[skeleton]));
  }
  return null;
}

/** Whether a number is one that a sparse matrix does not store. */
const isMissing = part => isSpot(part) && Boolean(tableOf(part).is_sparse) && numberAt(part) === 0;

/** A formula without the terms that a sparse matrix has nothing for. */
function withoutMissing(formula) {
  if (!Array.isArray(formula)) return formula;
  const parts = formula.map(withoutMissing);
  if (formula[0] !== "+") return parts;
  const terms = parts.slice(1).filter(term => !(isKind(term, "*") && term.some(isMissing)));
  return terms.length === 0 ? 0 : terms.length === 1 ? terms[0] : ["+", ...terms];
}

/** Whether a formula gives a number, up to rounding. */
function gives(formula, number) {
  const value = evaluate(formula);
  return isSame(value, number) || Math.abs(value - number) <= (data.is_single ? 1e-4 : 1e-9) * Math.abs(number);
}

/** Whether a number is told in the form in which it was worked: where that which is easier to follow
    does not give it, such as −log p of a p that was rounded to 0. */
function isAsWorked(spot) {
  const table = tableOf(spot);
  return table.worked_by !== undefined && !gives(formulaBy(table.made, shapeInFormulas(table), spot.place), numberAt(spot));
}

/** The formula of a number: nested lists with spots in the gaps; null for one that is given. */
function formulaOf(spot) {
  const table = tableOf(spot);
  if (table.made === undefined) return null;
  return formulaBy(isAsWorked(spot) ? table.worked_by : table.made, shapeInFormulas(table), spot.place);
}

/** The tables that the numbers of a table are made from; settings, which are single, aside. */
function tablesBehind(table) {
  const {made} = minibatch().tables[table];
  if (made === undefined) return [];
  return tablesIn(made).filter(each => minibatch().tables[each].kind !== "setting");
}

const isSpot = part => part !== null && typeof part === "object" && !Array.isArray(part);

/** Every spot in a formula, each once. */
function spotsIn(formula, found = []) {
  if (isSpot(formula)) {
    if (!found.some(each => each.table === formula.table && each.place === formula.place)) {
      found.push(formula);
    }
  } else if (Array.isArray(formula)) {
    formula.forEach(part => spotsIn(part, found));
  }
  return found;
}

/** A function by the name that formulas have for it. */
function functionCalled(name) {
  if (name === "mean") return (...all) => all.reduce((sum, each) => sum + each, 0) / all.length;
  if (name === "argmax") return (...all) => all.indexOf(Math.max(...all));
  if (name === "argmin") return (...all) => all.indexOf(Math.min(...all));
  return Math[data.notation.functions[name]] ?? (() => NaN);
}

/** What a formula is at its top: a number, a number of the worksheet, or what joins its parts. */
const kindOf = formula => typeof formula === "number" ? "number" : isSpot(formula) ? "spot" : formula[0];

/** Whether a formula has a sum inside. */
const hasSum = formula => Array.isArray(formula) && !isSpot(formula) && (formula[0] === "+" || formula.some(hasSum));

const isKind = (formula, kind, name) =>
  Array.isArray(formula) && formula[0] === kind && (name === undefined || formula[1] === name);

/** log of a sum, from what the others add to the largest term: log(1 + 1e−20) is 1e−20, and not 0. */
function logOfSum(terms) {
  const most = Math.max(...terms);
  const others = terms.filter((_, at) => at !== terms.indexOf(most)).reduce((sum, each) => sum + each, 0);
  return most > 0 && Number.isFinite(most) ? Math.log(most) + Math.log1p(others / most)
                                           : Math.log(most + others);
}

/** Whether a number is no more than what rounding leaves where the terms of its formula cancel. */
function isLeftByRounding(spot) {
  const number = numberAt(spot);
  const rest = (formula, value) => {
    if (!Array.isArray(formula) || value === 0 || !Number.isFinite(value)) return false;
    const [kind, first, second] = formula;
    if (kind === "neg") return rest(first, value);
    if (kind === "/") return typeof second === "number" && rest(first, value * second);
    if (kind === "*" && typeof first === "number") return rest(second, value / first);
    if (kind === "*") return typeof second === "number" && rest(first, value / second);
    if (kind !== "+" && kind !== "-") return false;
    const terms = formula.slice(1);
    return Math.abs(value) <= terms.length * (data.is_single ? 2 ** -23 : 2 ** -52) * largestOf(terms.map(evaluate));
  };
  return Math.abs(number) < (data.is_single ? 1e-4 : 1e-9) && rest(formulaOf(spot), number);
}

/** What a formula gives; used for subtotals of terms that are folded away. */
function evaluate(formula) {
  if (typeof formula === "number") return formula;
  if (isSpot(formula)) return numberAt(formula);
  const [kind, ...rest] = formula;
  if (isKind(formula, "f", "log") && isKind(rest[1], "+")) {
    return logOfSum(rest[1].slice(1).map(evaluate));
  }
  if (kind === "-" && isKind(rest[0], "f", "exp") && rest[1] === 1) {
    return Math.expm1(evaluate(rest[0][2]));
  }
  if (kind === "f") return functionCalled(rest[0])(...rest.slice(1).map(evaluate));
  if (kind === "let") return evaluate(rest[1]);
  if (kind === "if") {
    const [left, right] = [evaluate(rest[1]), evaluate(rest[2])];
    const holds = rest[0] === ">" ? left > right : rest[0] === "≥" ? left >= right : left === right;
    return evaluate(holds ? rest[3] : rest[4]);
  }
  const parts = rest.map(evaluate);
  switch (kind) {
    case "+": return parts.reduce((sum, each) => sum + each, 0);
    case "-": return parts[0] - parts[1];
    case "*": return parts[0] * parts[1];
    case "/": return parts[0] / parts[1];
    case "neg": return -parts[0];
    default: return parts[0] ** parts[1];
  }
}

const mathNamespace = "http://www.w3.org/1998/Math/MathML";

function math(tag, ...content) {
  const element = document.createElementNS(mathNamespace, tag);
  element.append(...content);
  // Parentheses as high as the line, whatever is between them.
  if (tag === "mo" && /^[()|[\]]$/.test(content[0])) element.setAttribute("stretchy", "false");
  return element;
}

/** How tightly a formula holds together; a fraction does as a power does, since it has a bar. */
function bindingOf(formula) {
  const {binding} = data.notation;
  return !Array.isArray(formula) ? binding.f : formula[0] === "/" ? binding["^"] : binding[formula[0]];
}

/** The parts of a long list, the largest (or with a sign of −1 the smallest) of them moved to the
    last place before those that are folded, if it is one of these. */
function withWinnerShown(all, sign, first, last) {
  if (spotsIn(all).some(isHidden)) return all;
  const numbers = all.map(part => sign * evaluate(part));
  const winner = numbers.indexOf(Math.max(...numbers));
  if (winner < first || winner >= last) return all;
  const others = all.filter((_, at) => at !== winner);
  return [...others.slice(0, first - 1), all[winner], ...others.slice(first - 1)];
}

/** Writes formulas as MathML: in names, or with the numbers filled in. */
class FormulaWriter {
  constructor(filledIn, allTerms) {
    this.filledIn = filledIn;
    this.allTerms = allTerms;
    this.shorthands = new Map();
  }

  /** The formula behind an equals sign; a sum comes term by term, so that it can be wrapped. */
  write(formula) {
    this.learn(formula);
    // A mean over many rows: its terms between parentheses, so that each can stand on a line.
    if (isKind(formula, "/") && isKind(formula[1], "+") && formula[1].length > 3) {
      const [first, ...others] = this.terms(formula[1]);
      first.lastChild.before(math("mo", "("));
      others.at(-1).append(math("mo", ")"), math("mo", "/"), this.inside(formula[2], 2));
      return [first, ...others];
    }
    if (!isKind(formula, "+")) {
      const whole = math("math", math("mo", "="), this.part(formula));
      whole.setAttribute("displaystyle", "true");
      return [whole];
    }
    return this.terms(formula);
  }

  /** A sum, term by term. */
  terms(sum) {
    const terms = [...this.list(sum.slice(1), "+", 1, true).childNodes];
    const pieces = [math("math", math("mo", "="), terms.shift())];
    while (terms.length) {
      const sign = terms.shift();
      sign.setAttribute("form", "infix");
      pieces.push(math("math", sign, terms.shift()));
    }
    return pieces;
  }

  /** Gives the short names in a formula their numbers, before any of it is written. */
  learn(formula) {
    if (!Array.isArray(formula)) return;
    formula.forEach(part => this.learn(part));
    if (formula[0] !== "let") return;
    const [, name, meaning] = formula;
    const key = JSON.stringify(meaning);
    if (this.shorthands.has(key)) return;
    const alike = [...this.shorthands.values()].filter(each => each.name === name).length;
    this.shorthands.set(key, {name, number: alike + 1, meaning});
  }

  /** m, or m with a number where there are several. */
  shortName({name, number}) {
    const alike = [...this.shorthands.values()].filter(each => each.name === name).length;
    return alike === 1 ? math("mi", name) : math("msub", math("mi", name), math("mn", number));
  }

  number(value) {
    const element = math("mn", formatNumber(value));
    element.setAttribute("class", value > 0 ? "above" : value < 0 ? "below" : "");
    return element;
  }

  spot(spot) {
    if (this.filledIn && !isHidden(spot)) return this.number(numberAt(spot));
    const label = this.filledIn ? `▢${blankNumber(spot)}` : nameOf(spot);
    const element = math("mi", label);
    element.setAttribute("mathvariant", "normal");
    return element;
  }

  /** A part as it stands beside others: in parentheses where it could be misread. */
  inside(formula, around) {
    const own = bindingOf(formula);
    const written = this.part(formula);
    return own < around || written.textContent.startsWith("−")
      ? math("mrow", math("mo", "("), written, math("mo", ")"))
      : written;
  }

  /** The largest terms first. */
  bySize(parts) {
    const sizes = new Map(parts.map(part => {
      const size = Math.abs(evaluate(part));
      return [part, Number.isNaN(size) ? Infinity : size];
    }));
    return [...parts].sort((a, b) => sizes.get(a) === sizes.get(b) ? 0 : sizes.get(b) - sizes.get(a));
  }

  /** Parts side by side; of a long list some, and a word on the rest: of terms that add up the
      largest, and the last one where it is of another kind, a bias behind products.
      @param winner 1 for the largest of all, −1 for the smallest, which is shown; else 0 */
  list(all, sign, around, addsUp, winner = 0) {
    const {longest} = data.notation;
    const hide = !this.allTerms && all.length > longest;
    // Sums in a sum stay in their order, and so do terms that would tell what is to be found.
    const isSorted = hide && addsUp && !all.some(hasSum) && !spotsIn(all).some(isHidden);
    const keepsLast = hide && (!isSorted || kindOf(all.at(-1)) !== kindOf(all[0]));
    const last = all.length - (keepsLast ? 1 : 0);
    const first = longest - (keepsLast ? 2 : 1);
    const parts = isSorted ? [...this.bySize(all.slice(0, last)), ...all.slice(last)]
      : hide && winner ? withWinnerShown(all, winner, first, last) : all;
    const row = math("mrow");
    parts.forEach((part, at) => {
      const isFolded = hide && at >= first && at < last;
      if (isFolded && at > first) return;
      if (at > 0) row.append(math("mo", sign));
      row.append(isFolded ? this.folded(parts.slice(first, last), addsUp)
        : around === null || (at === 0 && isKind(part, "-")) ? this.part(part)
        : this.inside(part, around));
    });
    return row;
  }

  folded(parts, addsUp) {
    const count = parts.length;
    if (!addsUp || !this.filledIn || spotsIn(parts).some(isHidden)) return math("mtext", told("folded", {count}));
    const sum = formatNumber(parts.reduce((total, part) => total + evaluate(part), 0));
    return math("mtext", told("folded_sum", {count, sum}));
  }

  part(formula) {
    if (typeof formula === "number") return this.number(formula);
    if (isSpot(formula)) return this.spot(formula);
    const [kind, ...rest] = formula;
    switch (kind) {
      case "+": return this.list(rest, "+", 1, true);
      case "-":
        return math("mrow", this.inside(rest[0], 0), math("mo", "−"), this.inside(rest[1], 1));
      case "*":
        return math("mrow", this.inside(rest[0], 1), math("mo", "·"), this.inside(rest[1], 2));
      case "/": return math("mfrac", this.part(rest[0]), this.part(rest[1]));
      case "neg": return math("mrow", math("mo", "−"), this.inside(rest[0], 3));
      case "^": return math("msup", this.inside(rest[0], 4), this.part(rest[1]));
      case "let": return this.shorthand(rest[1]);
      case "if": return this.choice(rest);
      default: return this.call(rest[0], rest.slice(1));
    }
  }

  call(name, parts) {
    if (name === "√") return math("msqrt", this.part(parts[0]));
    if (name === "exp") return math("msup", math("mi", "e"), this.part(parts[0]));
    if (name === "abs") {
      return math("mrow", math("mo", "|"), this.part(parts[0]), math("mo", "|"));
    }
    return math("mrow", math("mi", name), math("mo", "("),
                this.list(parts, ",", null, name === "mean", {max: 1, min: -1}[name] ?? 0),
                math("mo", ")"));
  }

  choice([relation, left, right, when, otherwise]) {
    return math("mrow", math("mo", "("), this.part(when), math("mtext", told("if")), this.part(left),
                math("mo", relation), this.part(right), math("mtext", told("else")),
                this.part(otherwise), math("mo", ")"));
  }

  /** A short name; what it stands for is told apart, once. */
  shorthand(meaning) {
    if (this.filledIn && !spotsIn(meaning).some(isHidden)) return this.number(evaluate(meaning));
    return this.shortName(this.shorthands.get(JSON.stringify(meaning)));
  }
}

/** Symbols such as x·hidden.weight + hidden.bias as MathML. */
function symbolsAsMath(text) {
  const row = math("mrow");
  let before = "(";
  let isApart = false;
  for (const [token] of text.matchAll(/[\p{L}\p{M}\p{N}_.#∂²ᵀ]+|\s+|./gu)) {
    if (/^\s+$/.test(token)) {
      isApart = true;
      continue;
    }
    const isWord = /^[\p{L}\p{N}#∂]/u.test(token);
    const element = math(isWord ? (/^\d/.test(token) ? "mn" : "mi") : "mo", token);
    if (isWord) element.setAttribute("mathvariant", "normal");
    // Signs have room around them, and a minus before a term has none; words are told to keep apart.
    if (token === "−" && /^[(,=×]$/.test(before)) element.setAttribute("form", "prefix");
    if (isApart && isWord && /[\p{L}\p{N})]$/u.test(before)) row.append(math("mtext", "\u00a0"));
    row.append(element);
    before = token;
    isApart = false;
  }
  return math("math", row);
}
