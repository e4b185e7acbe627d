import loadHighs from 'highs';
import { load, tell, workFolder } from './kit.mjs';

/*
 * node bench/choose.mjs [QUESTION.json | INSTANCES]
 * The best set of releases at every build: of the caller's own question (docs/schemas/choose-question.schema.json), or of
 * 300 mods with 1,500 releases over 60 builds, a what-if on them, INSTANCES (200) smaller questions, and a hard family.
 * The reference is a general mixed-integer solver (HiGHS) on the same questions in the same run, whose optimum has to be
 * the same; it is asked on every build of the smaller ones, and on every tenth of the large one. Prints one line of JSON
 * each.
 */
const { makeQuestion, readQuestion, wishesOf, solveAt, programAt, LARGE, HARD } = await load(
  workFolder('choose'),
  'bench/choose-node.ts',
);
const highs = await loadHighs();

const timed = (run) => {
  const start = performance.now();
  const result = run();
  return { seconds: (performance.now() - start) / 1000, result };
};
const threeDigits = (n) => Number(n.toPrecision(3));

/** Solves a question at each build, and asks the reference on every `each`-th of them. */
function compare(question, each = 1) {
  const wishes = wishesOf(question);
  const sums = { seconds: 0, asked: 0, oursAsked: 0, reference: 0, exact: 0, differs: 0 };
  question.builds.forEach((build, i) => {
    const { seconds, result } = timed(() => solveAt(question, wishes, build));
    sums.seconds += seconds;
    sums.exact += result.exact ? 1 : 0;
    if (i % each !== 0) return;
    const program = programAt(question, wishes, build);
    const reference = timed(() => highs.solve(program));
    sums.asked += 1;
    sums.oursAsked += seconds;
    sums.reference += reference.seconds;
    const most = Math.round(reference.result.ObjectiveValue);
    if (result.exact ? most !== result.value : most > result.value + result.gap) sums.differs += 1;
  });
  return sums;
}

const report = (what, { seconds, asked, oursAsked, reference, exact, differs }, more) =>
  tell({
    ...{ bench: 'choose', what, ...more, seconds: threeDigits(seconds), provenBest: exact },
    ...{
      comparedWithReference: asked,
      differsFromReference: differs,
      timesReference: threeDigits(reference / oursAsked),
    },
  });

const [argument = '200'] = process.argv.slice(2);
if (!/^\d+$/.test(argument)) {
  const question = readQuestion(argument);
  report(argument, compare(question), { builds: question.builds.length });
} else {
  const large = makeQuestion(1, LARGE);
  report('large', compare(large, 10), { mods: LARGE.mods, builds: LARGE.builds });
  const wishes = wishesOf(large);
  const whatIfs = Object.keys(large.weights)
    .slice(0, 15)
    .map((id) => {
      const weights = new Map(wishes.weights).set(id, wishes.weights.get(id) === 'must' ? 'spare' : 'must');
      return timed(() => large.builds.forEach((build) => solveAt(large, { ...wishes, weights }, build))).seconds;
    });
  tell({
    bench: 'choose',
    what: 'what-if on the large one, all builds',
    builds: LARGE.builds,
    worstMs: threeDigits(1000 * Math.max(...whatIfs)),
  });
  const all = { seconds: 0, asked: 0, oursAsked: 0, reference: 0, exact: 0, differs: 0 };
  for (let seed = 1; seed <= Number(argument); seed++) {
    const shape = {
      mods: 20 + (seed % 40),
      releases: 2 + (seed % 4),
      builds: 6,
      depth: 1 + (seed % 6),
      conflicts: 0.1 + (seed % 5) / 10,
      oneOf: (seed % 4) / 5,
    };
    const sums = compare(makeQuestion(seed, shape));
    for (const name of Object.keys(all)) all[name] += sums[name];
  }
  report('seeded', all, { instances: Number(argument) });
  for (let seed = 1; seed <= 5; seed++) {
    const hard = makeQuestion(seed, HARD);
    const own = hard.builds.map((build) => timed(() => solveAt(hard, wishesOf(hard), build)));
    tell({
      bench: 'choose',
      what: 'hard',
      seed,
      mods: HARD.mods,
      seconds: threeDigits(own[0].seconds),
      ...own[0].result,
    });
  }
}
