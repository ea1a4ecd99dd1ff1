// What other rooms use of this one.
export { Proxies } from './Proxies';
export { PartDialog } from './PartDialog';
