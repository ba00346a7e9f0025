import { readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { brotliCompressSync, constants, gzipSync } from 'node:zlib'
import tailwindcss from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { defineConfig, type Plugin } from 'vite'

const OUT = '../src/keenquiet/web_dist'
const PACKED = /\.(js|css|html|svg|json)$/
const LEAST_BYTES = 1024 // below that a packet holds it anyhow

/** Scripts and styles packed once, at build, as hard as it goes; the server hands them out as they are. */
function packed(): Plugin {
  const filesIn = (folder: string): string[] =>
    readdirSync(folder).flatMap((name) => {
      const path = join(folder, name)
      return statSync(path).isDirectory() ? filesIn(path) : [path]
    })
  return {
    name: 'packed',
    apply: 'build',
    closeBundle() {
      for (const path of filesIn(OUT)) {
        const content = readFileSync(path)
        if (!PACKED.test(path) || content.length < LEAST_BYTES) continue
        const quality = { [constants.BROTLI_PARAM_QUALITY]: constants.BROTLI_MAX_QUALITY }
        writeFileSync(`${path}.br`, brotliCompressSync(content, { params: quality }))
        writeFileSync(`${path}.gz`, gzipSync(content, { level: 9 }))
      }
    },
  }
}

export default defineConfig({
  plugins: [react(), tailwindcss(), packed()],
  build: { outDir: OUT, emptyOutDir: true },
  server: { proxy: { '/api': 'http://127.0.0.1:8765' } },
})
