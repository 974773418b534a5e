import { fileURLToPath } from 'node:url'
import vue from '@vitejs/plugin-vue'
import Components from 'unplugin-vue-components/vite'
import { ElementPlusResolver } from 'unplugin-vue-components/resolvers'
import { defineConfig } from 'vite'
import { compression } from 'vite-plugin-compression2'

const OURS =
  /\/src\/(api\/|shell\/(?!router|ahead)[a-z]+\.ts|bed\/palette)|export-helper|d3-(color|interpolate)/
const FIRST = /element-plus\/es\/components\/(alert|button|skeleton|icon)\//
const FIELDS =
  /node_modules\/(element-plus(?!\/es\/components\/table)|@element-plus|@popperjs|lodash)|src\/components\/(\w+Field|FoldPart|Term\w+|given)\b/

// what the kit brings along for uses that are not made of it here
const UNUSED = new RegExp(
  [
    'el-button--(success|warning|info)',
    'el-button-group',
    'el-quarter-table|el-date-range|el-time-',
    'el-upload-cover|el-upload-dragger__|el-upload-list--picture',
    'el-table-filter|el-table__(expand|indent|placeholder)',
  ].join('|'),
)
const lean = {
  postcssPlugin: 'lean',
  Rule(rule: { selectors: string[]; remove(): void }) {
    const kept = rule.selectors.filter((one) => !UNUSED.test(one))
    if (!kept.length) rule.remove()
    else if (kept.length < rule.selectors.length) rule.selectors = kept
  },
}

export default defineConfig({
  css: { postcss: { plugins: [lean] } },
  plugins: [
    vue(),
    Components({
      dirs: ['src/components'],
      dts: 'src/components.d.ts',
      resolvers: [ElementPlusResolver({ importStyle: 'css' })],
    }),
    // compressed once, here, and served as it lies
    compression({ algorithms: ['brotliCompress', 'gzip'], threshold: 600 }),
  ],
  resolve: {
    alias: {
      '@': fileURLToPath(new URL('./src', import.meta.url)),
      '@ctrl/tinycolor': fileURLToPath(new URL('./src/components/no_tints.ts', import.meta.url)),
      'async-validator': fileURLToPath(new URL('./src/components/no_rules.ts', import.meta.url)),
    },
  },
  build: {
    target: 'es2022',
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 600,
    // all styles compressed weigh less than the requests of a file a page, and nothing jumps when one comes late
    cssCodeSplit: false,
    rolldownOptions: {
      output: {
        codeSplitting: {
          // what every page needs, in one file that stays in the browser's store over an upgrade; then what many
          // pages share, so that a page is a few files and not sixty
          groups: [
            {
              name: 'base',
              test: /node_modules\/(@vue|vue|vue-router|@tanstack|@vueuse|openapi-fetch)\//,
              priority: 4,
            },
            { name: 'shared', test: OURS, priority: 3 },
            // what the first sight of the workshop needs of the kit, and then its fields and what opens over a page
            { name: 'kit', test: FIRST, priority: 2 },
            { name: 'fields', test: FIELDS, minShareCount: 7, priority: 1 },
          ],
        },
      },
    },
  },
})
