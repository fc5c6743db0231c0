export { MAX_FILE_LENGTH, folderRead, folderRename, folderWrite } from './folder.js';
export type { SourceFile } from './folder.js';
