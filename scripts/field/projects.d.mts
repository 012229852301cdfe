export interface FieldProject {
  name: string;
}
export const projects: readonly FieldProject[];
