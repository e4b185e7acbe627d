import { describe, it } from 'vitest';
import { filled, FOLDER_CONTRACT, READER_CONTRACT } from '../../core/testing/folder-contract';
import { handedFolder } from './handed-folder';
import { memoryFolder } from '#core/folders';

describe('a folder in memory', () => {
  it.each(READER_CONTRACT)('$name', ({ hold }) => hold((files) => filled(memoryFolder(), files)));
  it.each(FOLDER_CONTRACT)('$name', ({ hold }) => hold(memoryFolder()));
});

describe('handed-over files', () => {
  it.each(READER_CONTRACT)('$name', ({ hold }) =>
    hold(async (files) =>
      handedFolder(new Map(Object.entries(files).map(([path, bytes]) => [path, new File([bytes], path)]))),
    ),
  );
});
