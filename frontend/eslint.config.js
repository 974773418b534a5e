import { readdirSync } from 'node:fs'
import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'
import tseslint from 'typescript-eslint'

const KNOWN = [
  '^el-',
  '^Router(Link|View)$',
  ...readdirSync('src/components').map((file) => `^${file.split('.')[0]}$`),
]

export default tseslint.config(
  { ignores: ['dist', 'src/api/schema.d.ts', 'src/components.d.ts'] },
  ...tseslint.configs.recommended,
  ...vue.configs['flat/recommended'],
  // how it is laid out is Prettier's
  prettier,
  {
    files: ['**/*.vue'],
    languageOptions: { parserOptions: { parser: tseslint.parser } },
  },
  {
    files: ['src/**/*.{ts,vue}'],
    rules: {
      // what is not taken in by hand is the kit's, the router's or one of src/components
      'vue/no-undef-components': ['error', { ignorePatterns: KNOWN }],
      // a bare control stands only where a comment at the head of its file says why
      'vue/no-restricted-html-elements': [
        'error',
        ...['button', 'input', 'select', 'textarea', 'details', 'dialog', 'progress', 'table'].map(
          (element) => ({
            element,
            message: "Take the kit's, or say at the head of the file why not.",
          }),
        ),
      ],
      'max-len': ['error', { code: 120, ignoreUrls: true }],
      'max-lines': ['error', { max: 250, skipBlankLines: false, skipComments: false }],
    },
  },
)
