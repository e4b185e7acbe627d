export { type ListSyntax, ListSyntaxSchema, mergeModList, readModList, writeModList } from './syntax';
