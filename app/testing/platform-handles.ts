/*
 * As much of the platform's handles on files and folders (File System Standard, and Chromium's `move`) as the adapters use, in memory.
 * What is not there, or is of the other kind, is refused as the platform does.
 */

const refuse = (name: string): never => {
  throw new DOMException(name, name);
};

/** A clock that no two changes share, so that times tell what was changed. */
let now = 1_000;

class FileHandle {
  readonly kind = 'file';
  bytes = new Uint8Array(0);
  modified = (now += 1000);

  constructor(
    public name: string,
    public parent: DirectoryHandle | undefined,
  ) {}

  put(bytes: Uint8Array): void {
    this.bytes = new Uint8Array(bytes);
    this.modified = now += 1000;
  }

  #there(): void {
    if (this.parent?.children.get(this.name) !== this) refuse('NotFoundError');
  }

  async isSameEntry(other: unknown): Promise<boolean> {
    return other === this;
  }

  async getFile(): Promise<File> {
    this.#there();
    return new File([this.bytes], this.name, { lastModified: this.modified });
  }

  /** Takes the file's place when it is closed. */
  async createWritable({ keepExistingData = false } = {}): Promise<WritableStream> {
    this.#there();
    let bytes = keepExistingData ? this.bytes : new Uint8Array(0);
    let at = 0;
    const write = async (chunk: Uint8Array | { position?: number; data: Uint8Array }): Promise<void> => {
      const data = 'data' in chunk ? chunk.data : chunk;
      if ('data' in chunk && chunk.position !== undefined) at = chunk.position;
      const whole = new Uint8Array(Math.max(bytes.length, at + data.length));
      whole.set(bytes);
      whole.set(data, at);
      [bytes, at] = [whole, at + data.length];
    };
    const close = async (): Promise<void> => this.put(bytes);
    return Object.assign(new WritableStream({ write, close }), { write, close }) as unknown as WritableStream;
  }

  /** Only workers have it: see {@link asInWorker}. */
  async createSyncAccessHandle() {
    this.#there();
    return {
      getSize: () => this.bytes.length,
      read: (into: Uint8Array, { at }: { at: number }) => {
        const some = this.bytes.subarray(at, at + into.length);
        into.set(some);
        return some.length;
      },
      write: (data: Uint8Array, { at }: { at: number }) => {
        const whole = new Uint8Array(Math.max(this.bytes.length, at + data.length));
        whole.set(this.bytes);
        whole.set(data, at);
        this.put(whole);
        return data.length;
      },
      truncate: (size: number) => this.put(this.bytes.slice(0, size)),
      close: () => undefined,
    };
  }

  async move(folder: DirectoryHandle, name: string): Promise<void> {
    this.#there();
    if (folder.children.get(name)?.kind === 'directory') refuse('TypeMismatchError');
    this.parent!.children.delete(this.name);
    folder.children.set(name, this);
    [this.parent, this.name] = [folder, name];
  }
}

export class DirectoryHandle {
  readonly kind = 'directory';
  readonly children = new Map<string, FileHandle | DirectoryHandle>();

  constructor(
    readonly name: string,
    readonly parent?: DirectoryHandle,
  ) {}

  #child(name: string, kind: 'file' | 'directory', create: boolean): FileHandle | DirectoryHandle {
    if (this.parent && this.parent.children.get(this.name) !== this) refuse('NotFoundError');
    const known = this.children.get(name);
    if (known) return known.kind === kind ? known : refuse('TypeMismatchError');
    if (!create) refuse('NotFoundError');
    const made = kind === 'file' ? new FileHandle(name, this) : new DirectoryHandle(name, this);
    this.children.set(name, made);
    return made;
  }

  async getFileHandle(name: string, { create = false } = {}) {
    return this.#child(name, 'file', create);
  }

  async getDirectoryHandle(name: string, { create = false } = {}) {
    return this.#child(name, 'directory', create);
  }

  async removeEntry(name: string, { recursive = false } = {}): Promise<void> {
    const known = this.children.get(name) ?? refuse('NotFoundError');
    if (known.kind === 'directory' && known.children.size > 0 && !recursive) refuse('InvalidModificationError');
    this.children.delete(name);
  }

  async *entries() {
    yield* [...this.children];
  }

  async *keys() {
    yield* [...this.children.keys()];
  }

  async isSameEntry(other: unknown): Promise<boolean> {
    return other === this;
  }

  /** The names that lead to another one below this; null where it is not. */
  async resolve(other: DirectoryHandle): Promise<string[] | null> {
    const names: string[] = [];
    for (let at: DirectoryHandle | undefined = other; at; at = at.parent) {
      if (at === this) return names;
      names.unshift(at.name);
    }
    return null;
  }
}

/** A folder as a person picks one. */
export const pickable = (name: string): FileSystemDirectoryHandle =>
  new DirectoryHandle(name) as unknown as FileSystemDirectoryHandle;

/** What `navigator` has of the origin's private file system. */
export const storageOf = (root: DirectoryHandle) => ({
  getDirectory: async () => root,
  estimate: async () => ({ usage: 10, quota: 100 }),
});

/** Has files be handled as in a worker by whatever is loaded from now on, or as in a page. */
export const asInWorker = (isInWorker: boolean): unknown =>
  Object.assign(globalThis, { FileSystemFileHandle: isInWorker ? FileHandle : undefined });

/** Copies a value as the platform's database does; handles stay what they are, and their files where they lie. */
export function cloneWithHandles(value: unknown): unknown {
  if (value instanceof DirectoryHandle || typeof value !== 'object' || value === null) return value;
  if (Array.isArray(value)) return value.map(cloneWithHandles);
  if (Object.getPrototypeOf(value) !== Object.prototype) return structuredCopy(value);
  return Object.fromEntries(Object.entries(value).map(([name, one]) => [name, cloneWithHandles(one)]));
}
const structuredCopy = globalThis.structuredClone;
