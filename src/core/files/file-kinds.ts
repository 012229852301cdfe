/** Tells whether a layer of this name is read as an env file. */
export function isEnvFileName(path: string): boolean {
  return !isStructured(path) && !isModule(path);
}

export function isStructured(path: string): boolean {
  return /\.(json|ya?ml)$/.test(path);
}

export function isModule(path: string): boolean {
  return /\.[cm]?[jt]s$/.test(path) && !/(^|\/)\.env\./.test(path);
}
