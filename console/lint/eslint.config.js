// What linters ask of the console: the rules of React's hooks, and of pages that
// everybody can use.
import a11y from 'eslint-plugin-jsx-a11y'
import hooks from 'eslint-plugin-react-hooks'
import ts from 'typescript-eslint'

// Keys pressed on an item reach the list that it stands in, which moves the focus.
const pointed = ['onClick', 'onMouseDown', 'onMouseUp']

export default ts.config(
  { ignores: ['dist', 'node_modules', 'src/api/schema.d.ts'] },
  ...ts.configs.recommended,
  a11y.flatConfigs.recommended,
  {
    plugins: { 'react-hooks': hooks },
    rules: {
      'react-hooks/rules-of-hooks': 'error',
      'react-hooks/exhaustive-deps': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { varsIgnorePattern: '^_+$' }],
      // The first thing of a page that is for typing takes the focus.
      'jsx-a11y/no-autofocus': 'off',
      // What scrolls can be scrolled by keys.
      'jsx-a11y/no-noninteractive-tabindex': [
        'error',
        { roles: ['group', 'region', 'table', 'treegrid', 'grid'], tags: [] },
      ],
      'jsx-a11y/no-noninteractive-element-interactions': ['error', { handlers: pointed }],
      'jsx-a11y/no-static-element-interactions': ['error', { handlers: pointed }],
    },
  },
)
