/** z of the normal distribution for 95% confidence, both sides. */
const Z = 1.959964;

/** What people reported of a release at a build. */
export interface ReportCounts {
  readonly for: number;
  readonly against: number;
}

/**
 * Between which shares of all who try it a release most likely runs, given those who reported: the Wilson score interval
 * at 95% (E. B. Wilson, Probable Inference, the Law of Succession, and Statistical Inference, 1927). Its lower end grows
 * with the number of reports, so that 3 of 3 (0.44) do not beat 180 of 190 (0.91).
 */
export function shareThatRuns({ for: ran, against }: ReportCounts): { low: number; high: number } {
  const all = ran + against;
  if (all === 0) return { low: 0, high: 1 };
  const share = ran / all;
  const middle = share + (Z * Z) / (2 * all);
  const spread = Z * Math.sqrt((share * (1 - share)) / all + (Z * Z) / (4 * all * all));
  const scale = 1 + (Z * Z) / all;
  return { low: (middle - spread) / scale, high: (middle + spread) / scale };
}
