/*
 * The numbers of every step: as the command worked them, and as they are with what was changed here.
 */

/** What is changed: a number for `step:table:place`, in the order in which it was. */
const changes = new Map();
const changeKey = (step, {table, place}) => `${step}:${table}:${place}`;

const isSame = (number, other) => number === other || (Number.isNaN(number) && Number.isNaN(other));

/** The tables that a table is worked from, by its pattern. */
const tablesIn = pattern =>
  [...new Set(data.patterns[pattern].flatMap(([, gaps]) => gaps.map(gap => gap[0])))].filter(each => each !== null);

const shapeInFormulas = table => table.shape_in_formulas ?? table.shape;

for (const structure of data.structures) {
  // Each calculated table behind those that it is made from.
  const order = [];
  const seen = new Set();
  const add = at => {
    const {made, worked_by: workedBy} = structure.tables[at];
    if (seen.has(at)) return;
    seen.add(at);
    if (made === undefined) return;
    tablesIn(made).forEach(add);
    if (workedBy !== undefined) tablesIn(workedBy).forEach(add);
    order.push(at);
  };
  structure.tables.forEach((_, at) => add(at));
  structure.order = order;
  structure.numberOf = (kind, line, name) => structure.tables.findIndex(
    each => each.kind === kind && each.line === line && (name === undefined || each.name === name));
}

/** The numbers of one step. */
class StepNumbers {
  /** @param before the step before it; undefined for the first */
  constructor(step, structure, before) {
    Object.assign(this, {step, structure, before});
    this.own = step.numbers;
    this.asItWas = [];  // by table, as the command has them
    this.plain = [];    // the calculated ones as they are worked here, with nothing changed
    this.clear();
  }

  /** Forgets what followed from changes. */
  clear() {
    this.changed = new Map();  // by table: its numbers, where any of them is another
  }

  tables() { return this.structure.tables; }

  /** Where the numbers of a table that is not calculated come from: a table of the step before. */
  sourceOf(at) {
    if (!this.before || this.tables()[at].made !== undefined) return null;
    const {kind, line, name, memory_of: memory} = this.tables()[at];
    const follows = this.step.step === this.before.step.step + 1;
    const earlier = this.before.structure;
    const found = kind === "setting" ? earlier.numberOf(kind, line, name)
      : follows && kind === "value" && earlier.numberOf("after", line) >= 0 ? earlier.numberOf("after", line)
      : follows && memory !== undefined ? earlier.numberOf("worked out", line, memory)
      : this.own[at] === null ? earlier.numberOf(kind, line, name) : -1;
    return found < 0 ? null : found;
  }

  /** The numbers of a table as they are without changes. */
  stored(at) {
    if (this.asItWas[at]) return this.asItWas[at];
    const own = this.own[at];
    const source = this.sourceOf(at);
    const {made} = this.tables()[at];
    if (own !== null) this.asItWas[at] = numbersIn(own);
    else if (made !== undefined) this.asItWas[at] = this.workedHere(at);
    else if (source !== null) this.asItWas[at] = this.before.stored(source);
    else this.asItWas[at] = emptyNumbers(1).fill(1);  // where the sweep starts
    return this.asItWas[at];
  }

  /** A calculated table as it is worked here, from numbers as they are without changes. */
  workedHere(at) {
    this.plain[at] ??= this.work(at, each => this.stored(each));
    return this.plain[at];
  }

  work(at, numbersOf) {
    const {made, worked_by: workedBy} = this.tables()[at];
    return workedBy === undefined ? this.workedBy(made, shapeInFormulas(this.tables()[at]), numbersOf)
                                  : this.workedBy(workedBy, shapeInFormulas(this.tables()[at]), numbersOf);
  }

  workedBy(pattern, shape, numbersOf) {
    const tables = [];
    for (const each of tablesIn(pattern)) tables[each] = numbersOf(each);
    return worked(pattern, tables, shape);
  }

  /** The numbers of a table as they are now. */
  now(at) { return this.changed.get(at) ?? this.stored(at); }

  isChanged({table, place}) {
    const numbers = this.changed.get(table);
    return numbers !== undefined && !isSame(numbers[place], this.stored(table)[place]);
  }

  /** Works everything again that depends on a change.
   *  @param own the changes in this step: [[table, place], number] */
  workAgain(own) {
    this.clear();
    this.tables().forEach((table, at) => this.carryOn(table, at));
    for (const [{table, place}, number] of own) {
      if (!this.changed.has(table)) this.changed.set(table, this.stored(table).slice());
      this.changed.get(table)[place] = number;
    }
    if (this.changed.size > 0) this.structure.order.forEach(at => this.follow(at));
  }

  /** What is another in the step before is another here, too. */
  carryOn({kind, is_rate: isRate}, at) {
    const source = this.sourceOf(at);
    const earlier = source === null ? undefined : this.before.changed.get(source);
    if (earlier === undefined) return;
    if (kind !== "setting") {
      this.changed.set(at, earlier);
      return;
    }
    // A rate that a schedule changes stays as many times the one before; what counts steps goes on.
    const [was, is] = [this.before.stored(source)[0], this.stored(at)[0]];
    if (was !== is && !isRate) return;
    this.changed.set(at, emptyNumbers(1).fill(was === is ? earlier[0] : earlier[0] * (is / was)));
  }

  /** Works a calculated table again where anything behind it is another. */
  follow(at) {
    const {made, worked_by: workedBy} = this.tables()[at];
    if (!tablesIn(workedBy ?? made).some(each => this.changed.has(each))) return;
    const numbers = this.work(at, each => this.now(each));
    const [plain, stored] = [this.workedHere(at), this.stored(at)];
    let isOther = false;
    for (let place = 0; place < numbers.length; ++place) {
      // What is worked from the same numbers is the same to the last bit.
      if (isSame(numbers[place], plain[place])) numbers[place] = stored[place];
      else isOther = true;
    }
    if (isOther) this.changed.set(at, numbers);
  }

  /** The result with all updates made. */
  after() {
    const numbersOf = at => this.now(at);
    const again = new Map();
    for (const [at, table] of this.tables().entries()) {
      const updated = table.kind === "value" ? this.structure.numberOf("after", table.line) : -1;
      if (updated >= 0) again.set(at, numbersOf(updated));
    }
    const from = at => again.get(at) ?? numbersOf(at);
    for (const at of this.structure.order) {
      if (this.tables()[at].kind !== "value") continue;
      const {made, worked_by: workedBy} = this.tables()[at];
      if (tablesIn(workedBy ?? made).some(each => again.has(each))) again.set(at, this.work(at, from));
    }
    const result = this.tables().findIndex(table => table.kind === "value" && table.name === this.structure.result);
    return from(result)[0];
  }
}

const allSteps = data.steps;
const stepNumbers = [];
allSteps.forEach((step, at) => {
  const structure = data.structures[step.structure];
  const numbers = new StepNumbers(step, structure, stepNumbers[at - 1]);
  stepNumbers.push(numbers);
  step.result = structure.result;
  step.rule = structure.rule;
  step.drawn = structure.drawn;
  step.walk = structure.walk;
  step.tables = structure.tables.map((table, each) => Object.create(table, {
    numbers: {get: () => numbers.now(each)},
    residues: {value: step.residues?.[each]},
  }));
});
// Those that the command showed; a step that is taken here joins them.
data.steps = allSteps.slice(0, data.shown);

const numbersNow = () => stepNumbers[shown.minibatch];

/** How long it took to work everything again, in milliseconds. */
let lastWorking = 0;

/** Works all steps again with the changes there are. */
function workAgain() {
  const start = performance.now();
  data.steps.forEach((_, at) => {
    const own = [...changes.values()].filter(each => each.step === at).map(each => [each.spot, each.number]);
    stepNumbers[at].workAgain(own);
  });
  lastWorking = performance.now() - start;
}
