// What other rooms use of this one.
export { c4FromSha512 } from './c4';
export { type Hasher, folderHashes } from './folderHashes';
export { ChosenHash, HASH_WORDS, HashKind, type ListedFile } from './hashes';
export {
  CHAIN_FILE,
  type ChainLink,
  type Generation,
  HashListReader,
  MHL_FOLDER,
  type MhlEntry,
  TOOL,
  generationName,
  isoSeconds,
  listedPath,
  readChain,
  writeChain,
  writeGeneration,
  xmlText,
} from './mhl';
export { readSums } from './sums';
