type Env = Readonly<Record<string, string | undefined>>;

/** Pipelines that read annotations from a job's output, with how a job knows that it runs in one. One line per pipeline. */
const detections = {
  github: ({ GITHUB_ACTIONS }: Env) => GITHUB_ACTIONS === 'true',
  azure: ({ TF_BUILD }: Env) => TF_BUILD?.toLowerCase() === 'true',
  teamcity: ({ TEAMCITY_VERSION }: Env) => TEAMCITY_VERSION !== undefined && TEAMCITY_VERSION !== '',
};

export type PipelineName = keyof typeof detections;

/** Values of `--annotations`, besides `auto` and `never`. */
export const pipelineNames = Object.keys(detections) as [PipelineName, ...PipelineName[]];

/** The pipeline that this process runs in, by its environment. */
export function detectedPipeline(env: Env): PipelineName | undefined {
  return pipelineNames.find((name) => detections[name](env));
}
