export { type ListSyntax, ListSyntaxSchema, readModList, writeModList } from './syntax';
