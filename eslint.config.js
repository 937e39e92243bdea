import js from '@eslint/js';
import globals from 'globals';

export default [
  { ignores: ['target/', 'crates/web/assets/vendor/', 'crates/web/tests/vendor/'] },
  js.configs.recommended,
  {
    files: ['crates/web/assets/**/*.js'],
    languageOptions: { globals: { ...globals.browser, htmx: 'readonly', bootstrap: 'readonly' } },
    rules: { eqeqeq: 'error', 'no-var': 'error', 'prefer-const': 'error', 'no-shadow': 'error' },
  },
  { files: ['crates/web/tests/**/*.js', 'scripts/*.js'], languageOptions: { globals: globals.node } },
];
