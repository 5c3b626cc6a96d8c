/** Ways from a figure to its place. */
export interface Go {
  onHeight: (z: number) => void;
  onGo: (at: [number, number, number], title: string) => void;
}
