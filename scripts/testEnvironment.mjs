// Where tests run: Node.js as Jest has it, but for its globals. Jest has each `Object` or `Math` of tests, code and libraries looked up through a
// proxy: one small function of the database library took a tenth of the time of our tests. The context here is like any program's.
import { createRequire } from 'node:module';
import { TestEnvironment as NodeEnvironment } from 'jest-environment-node';

/** The module itself, whose functions Jest asks for when it calls them. */
const vm = createRequire(import.meta.url)('node:vm');

export default class extends NodeEnvironment {
  constructor(...args) {
    const { createContext } = vm;
    vm.createContext = () => createContext(vm.constants.DONT_CONTEXTIFY);
    try {
      super(...args);
    } finally {
      vm.createContext = createContext;
    }
  }
}
