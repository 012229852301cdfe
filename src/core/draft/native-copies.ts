/**
 * Where the tools of hybrid apps copy the web files to, by the directory of the native project that has to exist: Capacitor 7
 * (measured with `cap sync`) and Cordova (its directory layout).
 */
const copies: readonly (readonly [project: string, copy: string])[] = [
  ['android', 'android/app/src/main/assets/public'],
  ['ios', 'ios/App/App/public'],
  ['platforms/android', 'platforms/android/app/src/main/assets/www'],
  ['platforms/ios', 'platforms/ios/www'],
];

/** The directories of native projects below a folder that get the web files. @param folder with its slash, or empty */
export function nativeCopies(folder: string, exists: (path: string) => boolean): string[] {
  return copies.flatMap(([project, copy]) => (exists(folder + project) ? [folder + copy] : []));
}
