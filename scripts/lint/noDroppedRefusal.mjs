import { ESLintUtils } from '@typescript-eslint/utils';

/** A refusal that is given back and not looked at would let go on what was refused. */
export const noDroppedRefusal = ESLintUtils.RuleCreator.withoutDocs({
  meta: { type: 'problem', schema: [], messages: { dropped: 'This may be a refusal: look at it, and give it back.' } },
  defaultOptions: [],
  create(context) {
    const services = ESLintUtils.getParserServices(context);
    const checker = services.program.getTypeChecker();
    const isRefused = (type) => (type.isUnion() ? type.types.some(isRefused) : type.getSymbol()?.name === 'Refusal');
    const look = (node) => {
      const type = services.getTypeAtLocation(node);
      if (isRefused(checker.getAwaitedType(type) ?? type)) context.report({ node, messageId: 'dropped' });
    };
    return {
      ExpressionStatement: ({ expression }) => look(expression),
      // These take anything.
      'CallExpression[callee.property.name=/^(send|json|write|end|then)$/]': ({ arguments: given }) => given.forEach(look),
    };
  },
});
