import { DEFAULT_INTAKE } from '../intake';
import { DEFAULT_CONVENTION, DEFAULT_FOLDER_PLAN } from '../naming';
import { DEFAULT_PROXIES } from '../proxies';
import { Template } from './template';

const FIRST = {
  dayStart: 4,
  rate: null,
  trust: {},
  convention: DEFAULT_CONVENTION,
  folderPlan: DEFAULT_FOLDER_PLAN,
  naming: { rules: [], systems: [] },
  proxies: DEFAULT_PROXIES,
  intake: DEFAULT_INTAKE,
};

/** The templates that are always there. */
export const READY_TEMPLATES: readonly Template[] = [
  {
    ...FIRST,
    name: 'Small documentary',
    note: 'One or two cameras and a recorder over many days: interviews, and pictures to cut away to.',
    folderPlan: {
      ...DEFAULT_FOLDER_PLAN,
      skeleton: ['{job}/Documents', '{job}/Exports', '{job}/Graphics', '{job}/Music', '{job}/Stills'],
    },
    cameras: [
      { label: 'A', model: null },
      { label: 'B', model: null },
      { label: 'S', model: null },
    ],
    choice: {
      keywords: [
        ...['Interview', 'Cutaway', 'Establishing', 'Atmosphere', 'Archive'].map((name, i) => ({
          name,
          family: 'What it is',
          hotkey: i + 1,
        })),
        ...['Wide', 'Medium', 'Close'].map((name, i) => ({ name, family: 'Size', hotkey: i + 6 })),
      ],
      bins: [
        { path: ['Interviews'] },
        { path: ['Pictures'] },
        { path: ['Pictures', 'Places'] },
        { path: ['Pictures', 'People'] },
        { path: ['Sound'] },
      ],
      searches: [
        { name: 'Interviews', query: 'keyword is Interview' },
        { name: 'Faster than the edit', query: 'rate over edit' },
      ],
    },
  },
  {
    ...FIRST,
    name: 'Multi-camera day',
    note: 'Several cameras that roll together for a day, with sound of its own: a concert, a match, a stage.',
    folderPlan: {
      ...DEFAULT_FOLDER_PLAN,
      skeleton: ['{job}/Documents', '{job}/Exports', '{job}/Mixes'],
    },
    cameras: ['A', 'B', 'C', 'D', 'S'].map((label) => ({ label, model: null })),
    choice: {
      keywords: [
        ...['Wide', 'Close', 'Audience', 'Backstage'].map((name, i) => ({
          name,
          family: 'What it shows',
          hotkey: i + 1,
        })),
        ...['Part 1', 'Part 2', 'Break'].map((name, i) => ({ name, family: 'When', hotkey: i + 5 })),
      ],
      rules: [{ kind: 'field', field: 'model' }],
      bins: [
        { path: ['Part 1'], label: 'disc' },
        { path: ['Part 2'], label: 'square' },
        { path: ['Around it'], label: 'ring' },
        { path: ['Sound'], label: 'bar' },
      ],
      searches: [],
    },
  },
].map((t) => Template.parse(t));
