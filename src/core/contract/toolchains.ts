/** What is known of a build tool: the prefix that it usually exposes. One line a tool. */
interface Toolchain {
  prefix: string;
}

export const toolchains: Readonly<Record<string, Toolchain>> = {
  vite: { prefix: 'VITE_' },
  webpack: { prefix: '' },
  rollup: { prefix: '' },
  esbuild: { prefix: '' },
  dart: { prefix: '' },
  other: { prefix: '' },
};
