export default () => globalThis.removeRunFolder();
