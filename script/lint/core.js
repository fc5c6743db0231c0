/** What no common rule says: the engine has no clock of its own, so `new Date()` without an instant is refused. */
export default {
  meta: { name: 'core' },
  rules: {
    'no-clock': {
      create: (context) => ({
        NewExpression(node) {
          if (node.callee.name === 'Date' && node.arguments.length === 0)
            context.report({ node, message: 'Core has no clock: take the instant as an argument.' });
        },
      }),
    },
  },
};
