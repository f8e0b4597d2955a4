/** How bad a finding is, told by shape as well as by colour. */
export const SHAPES: Record<string, string> = { error: "■", warning: "▲", note: "●" };
