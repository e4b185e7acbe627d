import { expect, it } from 'vitest';
import { vanillaFinder } from '.';

const vanilla = ['tables/fares.csv', 'tables/crews.csv', 'ui/Board.xml', 'readme.txt', 'ui/de/board.xml'];
const find = vanillaFinder(vanilla, ['tables/crews.csv', 'ui/Board.xml', 'ui/de/board.xml']);

it.each([
  ['at its own path', 'tables/fares.csv', 'tables/fares.csv'],
  ['below the folder of the mod', 'mods/fair/tables/fares.csv', 'tables/fares.csv'],
  ['whatever its capitals', 'mods/fair/UI/board.XML', 'ui/Board.xml'],
  ['by its name, where the mod is about it', 'mods/fair/crews.csv', 'tables/crews.csv'],
  ['not by its name alone', 'mods/fair/fares.csv', undefined],
  ['not by a name that two files have', 'mods/fair/board.xml', undefined],
  ['not a note that lies with the mod', 'mods/fair/readme.txt', undefined],
  ['in the folder of the game itself', 'readme.txt', 'readme.txt'],
])('a file of a mod is made from the game’s: %s', (_, path, expected) => expect(find(path)).toBe(expected));
