import type { Distribution } from "../api/client";
import its from "./words.module.css";

const WIDTH = 240;
const HEIGHT = 58;

/** Where a metric's samples lay, with the threshold as a line among them. */
export function DistributionChart({ distribution, at }: { distribution: Distribution; at: number }) {
  const { shares, top, text } = distribution;
  const most = Math.max(1e-9, ...shares);
  const width = WIDTH / shares.length;
  const x = (Math.min(at, top) / top) * WIDTH;
  return (
    <figure className={its.distribution}>
      <svg width={WIDTH} height={HEIGHT} role="img" aria-label={`Samples of the last rehearsal: ${text}`}>
        {shares.map((share, k) => {
          const height = share > 0 ? Math.max(1, (share / most) * (HEIGHT - 4)) : 0;
          const left = k * width;
          return (
            <rect
              // biome-ignore lint/suspicious/noArrayIndexKey: the bins of a histogram are their places
              key={k}
              x={left}
              y={HEIGHT - height}
              width={width - 1}
              height={height}
              fill="var(--ink)"
              opacity={0.45}
            />
          );
        })}
        <path d={`M${x},0V${HEIGHT}`} stroke="var(--madder)" strokeWidth="2" strokeDasharray="5 3" />
      </svg>
      <figcaption>{text}</figcaption>
    </figure>
  );
}
