/* What the File System Access draft adds to the platform, and the DOM library leaves out. */

interface FileSystemHandle {
  queryPermission(descriptor: { mode: 'read' | 'readwrite' }): Promise<PermissionState>;
  requestPermission(descriptor: { mode: 'read' | 'readwrite' }): Promise<PermissionState>;
}

interface Window {
  /** Chromium only. */
  showDirectoryPicker?(options?: { id?: string; mode?: 'read' | 'readwrite' }): Promise<FileSystemDirectoryHandle>;
}

interface Window {
  /** Chromium only. */
  showSaveFilePicker?(options?: { suggestedName?: string }): Promise<FileSystemFileHandle>;
}

interface DataTransferItem {
  /** Chromium only. */
  getAsFileSystemHandle?(): Promise<FileSystemHandle | null>;
}
