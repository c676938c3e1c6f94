/*
 * Makes a function of each skeleton (formulas.js), which works all numbers of a box at once. No name
 * and no text of the data goes into the code: it is made of numbers and of the kinds that are
 * listed here.
 */

/** Writes the code of a skeleton. What needs a loop is worked in lines before the expression it is
    used in; both sides of a branch are worked. */
class CodeWriter {
  /** @param {boolean[]} plain which of the gaps are filled with the place itself */
  constructor(plain) {
    this.plain = plain;
    this.lines = [];
    this.names = [];
    this.loops = [];
    this.depths = [];
    this.shorthands = [];
  }

  /** A variable of the whole function. */
  variable() {
    this.names.push(`v${this.names.length}`);
    return this.names.at(-1);
  }

  gap() {
    const at = this.depths.length;
    this.depths.push(this.loops.length);
    const place = [`p${at}`, ...this.loops.map((loop, depth) => `${loop} * t${at}_${depth}`)].join(" + ");
    return this.plain[at] ? `(${place})` : `a${at}[${place}]`;
  }

  part(part) {
    if (part === "#") return this.gap();
    if (!Array.isArray(part)) return typeof part === "number" ? `(${part})` : "NaN";
    const [kind, ...rest] = part;
    switch (kind) {
      case "+": return this.sum(rest);
      case "-":
        if (isKind(rest[0], "f", "exp") && rest[1] === 1) return `Math.expm1(${this.part(rest[0][2])})`;
        return `(${this.part(rest[0])} - ${this.part(rest[1])})`;
      case "*": return `(${this.part(rest[0])} * ${this.part(rest[1])})`;
      case "/": return `(${this.part(rest[0])} / ${this.part(rest[1])})`;
      case "neg": return `(-${this.part(rest[0])})`;
      case "^": return this.power(rest);
      case "let": return this.shorthand(rest[1]);
      case "again": return this.shorthands.at(-rest[0]);
      case "if": return this.choice(rest);
      case "pick": return this.pick(rest);
      default: return this.call(rest[0], rest.slice(1));
    }
  }

  /** Calls `use` with the expression of each part, in a loop where it comes over and over. */
  each(parts, use) {
    for (const part of parts) {
      if (!isKind(part, "each")) {
        use(this.part(part));
        continue;
      }
      const loop = this.variable();
      const before = this.shorthands.length;
      this.lines.push(`for (${loop} = 0; ${loop} < ${Number(part[1])}; ++${loop}) {`);
      this.loops.push(loop);
      this.each(part.slice(2), use);
      this.loops.pop();
      this.lines.push("}");
      const named = this.shorthands.slice(before);
      for (let time = 1; time < part[1]; ++time) this.shorthands.push(...named);
    }
  }

  /** A variable that begins with a number and is worked on with each part. */
  gathered(parts, start, add) {
    const name = this.variable();
    this.lines.push(`${name} = ${start};`);
    this.each(parts, each => this.lines.push(add(name, each)));
    return name;
  }

  sum(parts) {
    if (parts.some(part => isKind(part, "each"))) return this.gathered(parts, 0, (sum, each) => `${sum} += ${each};`);
    return `(${parts.map(part => this.part(part)).join(" + ")})`;
  }

  power([base, exponent]) {
    if (exponent !== 2) return `Math.pow(${this.part(base)}, ${this.part(exponent)})`;
    const name = this.variable();
    this.lines.push(`${name} = ${this.part(base)};`);
    return `(${name} * ${name})`;
  }

  shorthand(meaning) {
    const name = this.variable();
    this.shorthands.push(name);
    this.lines.push(`${name} = ${this.part(meaning)};`);
    return name;
  }

  choice([relation, left, right, when, otherwise]) {
    const sign = {">": ">", "≥": ">=", "=": "==="}[relation];
    const sides = [left, right].map(each => this.part(each));
    return `(${sides.join(` ${sign} `)} ? ${this.part(when)} : ${this.part(otherwise)})`;
  }

  pick([which, ...options]) {
    const [wanted, at] = [this.variable(), this.variable()];
    this.lines.push(`${wanted} = ${this.part(which)}; ${at} = 0;`);
    return this.gathered(options, "NaN", (found, each) => `if (${at}++ === ${wanted}) ${found} = ${each};`);
  }

  call(name, parts) {
    const code = data.notation.functions[name];
    switch (name) {
      case "mean": return `(${this.sum(parts)} / ${countOf(parts)})`;
      case "max": return this.gathered(parts, "-Infinity", (most, each) => `${most} = Math.max(${most}, ${each});`);
      case "min": return this.gathered(parts, "Infinity", (least, each) => `${least} = Math.min(${least}, ${each});`);
      case "argmax": return this.placeOf(parts, ">", "-Infinity");
      case "argmin": return this.placeOf(parts, "<", "Infinity");
      case "log": return isKind(parts[0], "+") ? this.logOfSum(parts[0].slice(1)) : `Math.log(${this.part(parts[0])})`;
      default: return Object.hasOwn(data.notation.functions, name) && typeof Math[code] === "function"
        ? `Math.${code}(${this.part(parts[0])})` : "NaN";
    }
  }

  placeOf(parts, sign, start) {
    const [best, at, found] = [this.variable(), this.variable(), this.variable()];
    this.lines.push(`${best} = ${start}; ${at} = ${found} = 0;`);
    this.each(parts, each => {
      const number = this.variable();
      this.lines.push(`${number} = ${each}; if (${number} ${sign} ${best}) { ${best} = ${number}; ${found} = ${at}; } ++${at};`);
    });
    return found;
  }

  /** As `logOfSum` works it. */
  logOfSum(parts) {
    const [most, others] = [this.variable(), this.variable()];
    this.lines.push(`${most} = -Infinity; ${others} = 0;`);
    this.each(parts, each => {
      const number = this.variable();
      this.lines.push(`${number} = ${each}; if (${number} > ${most}) { if (${most} > -Infinity) ${others} += ${most}; ` +
                      `${most} = ${number}; } else ${others} += ${number};`);
    });
    return `(${most} > 0 && ${most} < Infinity ? Math.log(${most}) + Math.log1p(${others} / ${most}) : Math.log(${most} + ${others}))`;
  }
}

/** How many terms a list has, with those that come over and over. */
const countOf = parts => parts.reduce((sum, part) => sum + (isKind(part, "each") ? part[1] * countOf(part.slice(2)) : 1), 0);

const compiled = new Map();

/** The function that works a box of numbers by a skeleton, made when it is first wanted. */
function functionOf(skeleton, gaps, rank) {
  const plain = gaps.map(gap => gap[0] === null);
  const key = `${skeleton} ${rank} ${plain.map(Number).join("")}`;
  if (compiled.has(key)) return compiled.get(key);
  const writer = new CodeWriter(plain);
  const result = writer.part(data.skeletons[skeleton]);
  const axes = Array.from({length: rank}, (_, axis) => axis);
  const begins = plain.flatMap((isPlain, at) => [
    ...(isPlain ? [] : [`const a${at} = tables[gaps[${at}][0]];`]),
    ...axes.map(axis => `const s${at}_${axis} = gaps[${at}][2]?.[${axis}] ?? 0;`),
    ...Array.from({length: writer.depths[at]}, (_, depth) => `const t${at}_${depth} = gaps[${at}][3]?.[${depth}] ?? 0;`),
  ]);
  const place = at => [`gaps[${at}][1]`, ...axes.map(axis => `i${axis} * s${at}_${axis}`)].join(" + ");
  const out = axes.map(axis => `(box[${axis}][0] + i${axis} * box[${axis}][2]) * steps[${axis}]`).join(" + ") || "0";
  const made = new Function("tables", "gaps", "box", "steps", "result", [
    ...begins,
    writer.names.length ? `let ${writer.names.join(", ")};` : "",
    ...axes.map(axis => `for (let i${axis} = 0; i${axis} < box[${axis}][1]; ++i${axis}) {`),
    ...plain.map((_, at) => `const p${at} = ${place(at)};`),
    ...writer.lines,
    `result[${out}] = ${result};`,
    "}".repeat(rank),
  ].join("\n"));
  compiled.set(key, made);
  return made;
}

/** Numbers as precise as those of the lesson. */
const emptyNumbers = count => (data.is_single ? new Float32Array(count) : new Float64Array(count));

/** The numbers of a table as they are written down: a list, or their bytes in Base64. */
function numbersIn(own) {
  if (typeof own !== "string") return emptyNumbers(own.length).map((_, place) => asNumber(own[place]));
  const bytes = Uint8Array.from(atob(own), letter => letter.charCodeAt(0));
  const count = Math.floor(bytes.length / emptyNumbers(0).BYTES_PER_ELEMENT);
  const view = new DataView(bytes.buffer);
  return emptyNumbers(count).map((_, at) => (data.is_single ? view.getFloat32(4 * at, true) : view.getFloat64(8 * at, true)));
}

/** How far on the next place is along each axis of a shape. */
function stepsOf(shape) {
  const steps = shape.map(() => 1);
  for (let axis = shape.length - 2; axis >= 0; --axis) steps[axis] = steps[axis + 1] * shape[axis + 1];
  return steps;
}

/** All numbers of a shape by a pattern.
 *  @param tables the numbers of every table that it refers to */
function worked(pattern, tables, shape) {
  const result = emptyNumbers(shape.reduce((count, extent) => count * extent, 1));
  const everywhere = shape.map(extent => [0, extent, 1]);
  for (const [skeleton, gaps, box] of data.patterns[pattern]) {
    functionOf(skeleton, gaps, shape.length)(tables, gaps, box ?? everywhere, stepsOf(shape), result);
  }
  return result;
}
