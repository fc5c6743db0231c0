export { MAX_FILE_LENGTH, folderRead, folderWrite } from './folder.js';
export type { SourceFile } from './folder.js';
