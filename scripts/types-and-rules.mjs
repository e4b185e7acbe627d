import { existsSync } from 'node:fs';
import { resolve } from 'node:path';
import { ESLint } from 'eslint';
import hooks from 'eslint-plugin-react-hooks';
import ts from 'typescript';
import tseslint from 'typescript-eslint';
import { RULES_BY_TYPE } from '../eslint.config.js';

/* Types and rules of some files, by one program for both: reading what the files import is most of the work. */

const CODE_WITH_TYPES = /\.tsx?$/;
const FORMAT = {
  getCurrentDirectory: () => process.cwd(),
  getCanonicalFileName: (name) => name,
  getNewLine: () => '\n',
};

/** What a project says of its files, and the files that declare what is there without an import. */
function readProject(config) {
  const { config: json } = ts.readConfigFile(config, ts.sys.readFile);
  const { options, fileNames } = ts.parseJsonConfigFileContent(json, ts.sys, config.replace(/[^/]*$/, '') || '.');
  const names = new Set(fileNames.map((name) => resolve(name)));
  return {
    options,
    ambient: fileNames.filter((name) => name.endsWith('.d.ts')),
    has: (path) => names.has(resolve(path)),
  };
}

function programOf(config, files) {
  const { options, ambient } = readProject(config);
  return ts.createProgram([...ambient, ...files], { ...options, noEmit: true });
}

const faultsOf = (program, files) => [
  ...program.getOptionsDiagnostics(),
  ...program.getGlobalDiagnostics(),
  ...files.flatMap((path) => {
    const file = program.getSourceFile(path);
    return file ? [...program.getSyntacticDiagnostics(file), ...program.getSemanticDiagnostics(file)] : [];
  }),
];

/** Holds files to rules. @returns whether nothing is to be said of them; what is, is printed */
async function lint(files, options) {
  if (files.length === 0) return true;
  const eslint = new ESLint(options);
  const results = await eslint.lintFiles(files);
  const said = await (await eslint.loadFormatter('stylish')).format(results);
  if (said) console.log(said);
  return results.every(({ errorCount, warningCount }) => errorCount + warningCount === 0);
}

/**
 * @param changed files that are held to every rule
 * @param files all of which the types have to hold: those, and what imports them, which is held to the rules by type alone
 * @returns whether all of it holds; what does not is printed
 */
export async function holdsIn(changed, files) {
  const typed = files.filter((path) => CODE_WITH_TYPES.test(path) && existsSync(path));
  const program = programOf('tsconfig.json', typed);
  // The heart knows no platform: it is checked by what it may know as well.
  const isOfHeart = readProject('core/tsconfig.json').has;
  const heart = typed.filter((path) => isOfHeart(path));
  const faults = [
    ...faultsOf(program, typed),
    ...(heart.length > 0 ? faultsOf(programOf('core/tsconfig.json', heart), heart) : []),
  ];
  if (faults.length > 0) console.log(ts.formatDiagnosticsWithColorAndContext(faults, FORMAT));
  const languageOptions = { parser: tseslint.parser, parserOptions: { projectService: false, programs: [program] } };
  const typedFiles = { files: ['**/*.{ts,tsx}'], languageOptions };
  const isChanged = new Set(changed);
  const holds = [
    await lint(
      files.filter((path) => isChanged.has(path)),
      { overrideConfig: [typedFiles] },
    ),
    await lint(
      typed.filter((path) => !isChanged.has(path)),
      {
        overrideConfigFile: true,
        overrideConfig: [
          {
            ...typedFiles,
            plugins: { '@typescript-eslint': tseslint.plugin, 'react-hooks': hooks },
            rules: RULES_BY_TYPE,
          },
          // Comments that turn off other rules know these by name, and are not unused.
          { linterOptions: { reportUnusedDisableDirectives: 'off' } },
        ],
      },
    ),
  ];
  return faults.length === 0 && holds.every(Boolean);
}
