// What is looked for beyond what the type check finds.
import pluginVue from 'eslint-plugin-vue'
import ts from 'typescript-eslint'
import parser from 'vue-eslint-parser'

export default ts.config(
  { ignores: ['node_modules/**', 'dist/**', 'src/api/contract.ts'] },
  ...ts.configs.recommended,
  ...pluginVue.configs['flat/recommended'],
  {
    files: ['**/*.vue'],
    languageOptions: { parser, parserOptions: { parser: ts.parser } },
  },
  {
    rules: {
      // How lines break is left to whoever writes them, as everywhere in these sources.
      'vue/max-attributes-per-line': 'off',
      'vue/singleline-html-element-content-newline': 'off',
      'vue/multiline-html-element-content-newline': 'off',
      'vue/html-self-closing': 'off',
      'vue/html-closing-bracket-newline': 'off',
      'vue/html-indent': 'off',
      'vue/first-attribute-linebreak': 'off',
      // Written in capitals, one word is as far from an element of HTML as two.
      'vue/multi-word-component-names': 'off',
      // Facts of events are whatever an operation told; they are typed when they are read.
      '@typescript-eslint/no-explicit-any': 'off',
    },
  },
)
