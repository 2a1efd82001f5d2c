import type { RE2JS } from 're2js';

/** One instruction of a compiled pattern, as the engine has it (Pike's virtual machine). */
interface Instruction {
  op: number;
  out: number;
  arg: number;
  runes: ArrayLike<number>;
  matchRune(rune: number): boolean;
}

interface Program {
  inst: Instruction[];
  start: number;
}

/** The engine's numbers of operations. */
const OP = {
  alt: 1,
  altMatch: 2,
  capture: 3,
  emptyWidth: 4,
  fail: 5,
  match: 6,
  nop: 7,
  runes: 8,
  rune: 9,
  any: 10,
  anyButNewline: 11,
} as const;
const NEWLINE = 10;
const LAST_RUNE = 0x10ffff;

/**
 * How many states an automaton has that finds a pattern anywhere in a text, counted up to a limit. A text costs one step a character as long as the states
 * fit into the engine's table; past that, a pattern costs a hundred times as much.
 *
 * Assertions such as `\b` count as if they always held: that gives the states that matter, and never misses the growth of counted repetitions.
 *
 * @returns Infinity where the pattern looks behind, which no automaton does
 */
export function automatonStates(compiled: RE2JS, limit: number): number {
  const program = programOf(compiled);
  if (program.inst.some(({ op }) => op > OP.anyButNewline)) return Infinity;
  const kinds = kindsOfRunes(program);
  const closures = program.inst.map((_, at) => closure(program, at));
  const start = union([closures[program.start] ?? []]);
  const seen = new Set([start.join()]);
  const waiting = [start];
  for (let state = waiting.pop(); state && seen.size <= limit; state = waiting.pop()) {
    // A match ends the search.
    if (state.some((at) => program.inst[at]?.op === OP.match)) continue;
    for (const takes of kinds) {
      const next = union([start, ...state.filter((at) => takes[at]).map((at) => closures[program.inst[at]?.out ?? 0] ?? [])]);
      const key = next.join();
      if (seen.has(key)) continue;
      seen.add(key);
      waiting.push(next);
    }
  }
  return seen.size;
}

function programOf(compiled: RE2JS): Program {
  const program = (compiled as unknown as { re2Input?: { prog?: Program } }).re2Input?.prog;
  if (!program || !Array.isArray(program.inst) || typeof program.start !== 'number')
    throw new Error('The pattern engine has another shape than this was written for.');
  return program;
}

/** Which instructions each kind of character is taken by: characters that all instructions treat alike are one kind. */
function kindsOfRunes({ inst }: Program): boolean[][] {
  const samples = new Set([0, NEWLINE, 0x61, LAST_RUNE]);
  for (const { op, runes } of inst) {
    if (op !== OP.runes && op !== OP.rune) continue;
    for (const rune of Array.from(runes))
      for (const near of [rune - 1, rune, rune + 1, ...casesOf(rune)]) if (near >= 0 && near <= LAST_RUNE) samples.add(near);
  }
  const kinds = new Map<string, boolean[]>();
  for (const rune of samples) {
    const takes = inst.map((instruction) => {
      if (instruction.op === OP.any) return true;
      if (instruction.op === OP.anyButNewline) return rune !== NEWLINE;
      return (instruction.op === OP.runes || instruction.op === OP.rune) && instruction.matchRune(rune);
    });
    kinds.set(takes.map(Number).join(''), takes);
  }
  return [...kinds.values()];
}

function casesOf(rune: number): number[] {
  const letter = String.fromCodePoint(rune);
  return [letter.toLowerCase(), letter.toUpperCase()].map((other) => other.codePointAt(0) ?? rune);
}

/** The instructions that take a character, or match, which can be reached without taking one. */
function closure({ inst }: Program, from: number): number[] {
  const reached = new Set<number>();
  const found: number[] = [];
  const waiting = [from];
  for (let at = waiting.pop(); at !== undefined; at = waiting.pop()) {
    const instruction = inst[at];
    if (!instruction || reached.has(at)) continue;
    reached.add(at);
    if (instruction.op === OP.alt || instruction.op === OP.altMatch) waiting.push(instruction.out, instruction.arg);
    else if (instruction.op === OP.capture || instruction.op === OP.emptyWidth || instruction.op === OP.nop) waiting.push(instruction.out);
    else if (instruction.op !== OP.fail) found.push(at);
  }
  return found;
}

const union = (sets: readonly (readonly number[])[]): number[] => [...new Set(sets.flat())].sort((first, second) => first - second);
