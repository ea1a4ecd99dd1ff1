// Where tests run: Node.js as Jest has it, but for its globals. Jest puts interceptors on them, so that each `Object` or `Math` in a test, in our code and
// in a library's costs a microsecond, which for much code is ten times what it does. The context here is one like any program's.
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
