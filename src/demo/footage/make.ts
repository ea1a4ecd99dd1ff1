import { makeFootage } from './generate';

const folder = process.argv[2];
if (!folder) throw new Error('usage: make <folder>');
await makeFootage(process.env.FFMPEG_PATH ?? 'ffmpeg', folder, (line) => console.log(line));
