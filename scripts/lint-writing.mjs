/*
 * Folders are changed by the engine for changes, so that everything can be undone. This rule for the linter finds calls that change
 * one past it: of methods of the ports of folders, and of the platform's handles. It knows them by where the called method was
 * declared, so that a method that a port gains is found as the others are.
 */

/** Interfaces through which folders are changed. What of them promises nothing but to be done changes something. */
const PORTS = new Set(['Folder', 'Disk', 'ArrivalFolder', 'BrowserFolder', 'BrowserDisk']);

/** What of the platform's handles changes something. */
const PLATFORM = new Map([
  ['FileSystemHandle', ['move', 'remove']],
  ['FileSystemFileHandle', ['createWritable', 'createSyncAccessHandle']],
  ['FileSystemDirectoryHandle', ['removeEntry']],
]);

const DONE = /^Promise<void>$/;

export const writing = {
  meta: {
    type: 'problem',
    schema: [],
    messages: { past: '"{{method}}" changes a folder past the engine: hand a change set to changesOf(install).run' },
  },
  create(context) {
    const services = context.sourceCode.parserServices;
    const checker = services.program.getTypeChecker();
    /** Whether a method of an interface changes what lies on a disk. */
    function isWriting(declaration, method) {
      const owner = declaration.parent?.name?.text;
      if (PLATFORM.get(owner)?.includes(method)) return true;
      const signature = PORTS.has(owner) && checker.getSignatureFromDeclaration(declaration);
      return signature && DONE.test(checker.typeToString(checker.getReturnTypeOfSignature(signature)));
    }
    function look(node, method, symbol) {
      if (symbol?.declarations?.some((declaration) => isWriting(declaration, method)))
        context.report({ node, messageId: 'past', data: { method } });
    }
    return {
      // Whoever hands a method on, or takes it out of its port, calls it later.
      MemberExpression(node) {
        const method = node.computed ? node.property.value : node.property.name;
        if (typeof method !== 'string') return;
        const port = checker.getNonNullableType(services.getTypeAtLocation(node.object));
        look(node, method, checker.getPropertyOfType(port, method));
      },
      ObjectPattern(node) {
        const type = services.getTypeAtLocation(node);
        for (const { key } of node.properties)
          if (key?.type === 'Identifier') look(key, key.name, checker.getPropertyOfType(type, key.name));
      },
    };
  },
};
