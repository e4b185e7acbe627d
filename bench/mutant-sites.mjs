import ts from 'typescript';

/**
 * A place of a file where one small change makes another program.
 * @typedef {object} Site
 * @property {string} kind one of {@link KINDS}
 * @property {number} start where the text that is replaced begins, in UTF-16 units
 * @property {number} end
 * @property {string} text what stands there instead
 * @property {'expression' | 'statement'} of what `start` to `end` is
 * @property {number} [probeEnd] where the expression ends at whose reaching the site is reached, where that is not `end`
 */

const { SyntaxKind: Kind } = ts;

/** What an operator becomes. */
const BOUNDS = new Map([
  [Kind.LessThanToken, '<='],
  [Kind.LessThanEqualsToken, '<'],
  [Kind.GreaterThanToken, '>='],
  [Kind.GreaterThanEqualsToken, '>'],
]);
const TURNED = new Map([
  [Kind.EqualsEqualsEqualsToken, '!=='],
  [Kind.ExclamationEqualsEqualsToken, '==='],
  [Kind.AmpersandAmpersandToken, '||'],
  [Kind.BarBarToken, '&&'],
]);
const SIGNS = new Map([
  [Kind.PlusToken, '-'],
  [Kind.MinusToken, '+'],
  [Kind.AsteriskToken, '/'],
  [Kind.SlashToken, '*'],
]);

export const KINDS = ['condition', 'bound', 'left out', 'constant', 'sign', 'argument'];

const isTest = (node) => {
  const { parent } = node;
  return (
    ((ts.isIfStatement(parent) || ts.isWhileStatement(parent) || ts.isDoStatement(parent)) &&
      parent.expression === node) ||
    ((ts.isConditionalExpression(parent) || ts.isForStatement(parent)) && parent.condition === node)
  );
};

/** Statements that can be left out with the rest still being one: what is declared is needed, what is returned as a rule too. */
const canGo = (node) =>
  ts.isExpressionStatement(node) ||
  ts.isThrowStatement(node) ||
  ts.isContinueStatement(node) ||
  (ts.isReturnStatement(node) && node.expression === undefined);

/** Numbers and truth values that count when it runs: neither types nor names of members. */
const isConstant = (node) =>
  (ts.isNumericLiteral(node) || node.kind === Kind.TrueKeyword || node.kind === Kind.FalseKeyword) &&
  !ts.isLiteralTypeNode(node.parent) &&
  !(ts.isPropertyAssignment(node.parent) && node.parent.name === node) &&
  !ts.isEnumMember(node.parent);

function changedConstant(node) {
  if (node.kind === Kind.TrueKeyword) return 'false';
  if (node.kind === Kind.FalseKeyword) return 'true';
  return String(Number(node.text) + 1);
}

/** Calls whose arguments mean the same in any order. */
const ANY_ORDER = /^Math\.(min|max|hypot)$/;

/** Pairs of neighbouring arguments that the types let stand in each other's place. */
function* swaps(node, checker) {
  if (ANY_ORDER.test(node.expression.getText())) return;
  for (let i = 0; i + 1 < node.arguments.length; i++) {
    const [a, b] = [node.arguments[i], node.arguments[i + 1]];
    if (ts.isSpreadElement(a) || ts.isSpreadElement(b) || a.getText() === b.getText()) continue;
    const [typeA, typeB] = [a, b].map((one) => checker.getTypeAtLocation(one));
    if (checker.isTypeAssignableTo(typeA, typeB) && checker.isTypeAssignableTo(typeB, typeA)) yield [a, b];
  }
}

/**
 * Every {@link Site} of a file, in the order of the text.
 * @param {ts.SourceFile} file
 * @param {ts.TypeChecker} checker
 * @returns {Site[]}
 */
export function sitesOf(file, checker) {
  const sites = [];
  const add = (kind, node, text, of = 'expression') =>
    sites.push({ kind, start: node.getStart(file), end: node.end, text, of });
  const visit = (node) => {
    if (ts.isTypeNode(node) || ts.isImportDeclaration(node) || ts.isExportDeclaration(node)) return;
    if (ts.isExpression(node) && isTest(node)) add('condition', node, `!(${node.getText(file)})`);
    if (ts.isBinaryExpression(node)) {
      const { left, right, operatorToken } = node;
      const with_ = (sign) => `${left.getText(file)} ${sign} ${right.getText(file)}`;
      const isText = [left, right].some((one) => checker.getTypeAtLocation(one).flags & ts.TypeFlags.StringLike);
      for (const [kind, signs] of [
        ['bound', BOUNDS],
        ['condition', TURNED],
        ['sign', SIGNS],
      ])
        if (signs.has(operatorToken.kind) && !(kind === 'sign' && isText))
          add(kind, node, with_(signs.get(operatorToken.kind)));
    }
    if (ts.isPrefixUnaryExpression(node) && node.operator === Kind.ExclamationToken)
      add('condition', node, node.operand.getText(file));
    if (
      canGo(node) &&
      (ts.isBlock(node.parent) || ts.isIfStatement(node.parent) || ts.isIterationStatement(node.parent, false))
    )
      add('left out', node, ';', 'statement');
    if (isConstant(node)) add('constant', node, changedConstant(node));
    if (ts.isCallExpression(node))
      for (const [a, b] of swaps(node, checker)) {
        const between = file.text.slice(a.end, b.getStart(file));
        const text = `${b.getText(file)}${between}${a.getText(file)}`;
        // Reached where the call is: what is replaced is no expression by itself.
        sites.push({ kind: 'argument', start: a.getStart(file), end: b.end, text, of: 'expression', probeEnd: a.end });
      }
    ts.forEachChild(node, visit);
  };
  visit(file);
  return sites;
}

/** The text with one site's change made. */
export const changed = (text, { start, end, text: instead }) => text.slice(0, start) + instead + text.slice(end);

/** The order in which notes that stand at one place are put in, each before the last: what ends comes before what begins. */
const RANKS = { begin: { expression: 0, statement: 1 }, end: { statement: 2, expression: 3 } };

/**
 * The text with a note at each site, which leaves what it does as it is: its number is noted where the site is come to.
 * @param {readonly [number: number, site: Site][]} numbered
 */
export function probed(text, numbered) {
  const notes = numbered.flatMap(([number, { start, end, of, probeEnd = end }]) => {
    const [before, after] = of === 'statement' ? ['{ ', '; '] : ['(', ', '];
    return [
      { at: start, rank: RANKS.begin[of], note: `${before}reached__(${number})${after}` },
      { at: probeEnd, rank: RANKS.end[of], note: of === 'statement' ? ' }' : ')' },
    ];
  });
  // From the end, so that places stay.
  notes.sort((a, b) => b.at - a.at || a.rank - b.rank);
  return notes.reduce((all, { at, note }) => all.slice(0, at) + note + all.slice(at), text) + NOTE;
}

/** Notes are files, one for each site and test file; threads and programs that a test starts inherit where they belong. */
const NOTE = `
function reached__(number) {
  const { env } = globalThis.process;
  const name = number + '~' + env.MUTANTS_TEST;
  const noted = (globalThis.noted__ ??= new Set());
  if (env.MUTANTS_TEST === undefined || noted.has(name)) return;
  noted.add(name);
  try {
    globalThis.process.getBuiltinModule('node:fs').writeFileSync(env.MUTANTS_REACHED + '/' + name, '', { flag: 'wx' });
  } catch {} // It is noted already, perhaps by another person.
}
`;
