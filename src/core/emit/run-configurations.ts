import type { Bundle, Contract, Stage } from '../contract/contract.js';
import { xmlText } from '../text/xml.js';
import { type LaunchProject, type Start, titleOf } from './launch.js';

/** A file of run configurations. */
export interface RunConfiguration {
  name: string;
  text: string;
}

/** Tells whether a directory is one of editors that keep a run configuration per XML file: `.run`, `.idea/runConfigurations`. */
export function isRunDirectory(folder: string): boolean {
  return /(^|[\\/])(\.run|\.idea[\\/]runConfigurations)[\\/]?$/.test(folder);
}

/** One shell run configuration for each bundle and stage that can be started or built, in the XML of IntelliJ editors. */
export function runConfigurations(contract: Contract, project: LaunchProject): RunConfiguration[] {
  return [...contract.bundles.values()].flatMap((bundle) =>
    [...contract.stages.values()].flatMap((stage) => configurationOf(bundle, stage, project) ?? []),
  );
}

function configurationOf(
  bundle: Bundle,
  stage: Stage,
  { starts, program }: LaunchProject,
): RunConfiguration | undefined {
  const { folder = '.', command }: Partial<Start> = starts.get(bundle.name) ?? {};
  // Without a command after it, `adder with` runs the build of the contract.
  const rest = command ? ` -- ${command}` : bundle.build ? '' : undefined;
  if (rest === undefined) return undefined;
  const title = titleOf(bundle, stage);
  const directory = folder === '.' || !command ? '$PROJECT_DIR$' : `$PROJECT_DIR$/${folder}`;
  const options = [
    ['SCRIPT_TEXT', `${program} with ${stage.name} --bundle ${bundle.name}${rest}`],
    ['INDEPENDENT_SCRIPT_PATH', 'true'],
    ['SCRIPT_PATH', ''],
    ['SCRIPT_OPTIONS', ''],
    ['INDEPENDENT_SCRIPT_WORKING_DIRECTORY', 'true'],
    ['SCRIPT_WORKING_DIRECTORY', directory],
    ['INDEPENDENT_INTERPRETER_PATH', 'true'],
    ['INTERPRETER_PATH', ''],
    ['INTERPRETER_OPTIONS', ''],
    ['EXECUTE_IN_TERMINAL', 'true'],
    ['EXECUTE_SCRIPT_FILE', 'false'],
  ];
  const lines = options.map(([name, value = '']) => `    <option name="${name}" value="${xmlText(value)}" />\n`);
  return {
    name: `${title.replace(/[^\w.-]+/g, '_').replace(/_$/, '')}.run.xml`,
    text: `<component name="ProjectRunConfigurationManager">
  <configuration default="false" name="${xmlText(title)}" type="ShConfigurationType">
${lines.join('')}    <envs />
    <method v="2" />
  </configuration>
</component>
`,
  };
}
