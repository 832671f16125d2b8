/* How far something is, as a thin bar. */
import { Progress, type ProgressRootProps } from "@chakra-ui/react";

interface Props extends Omit<ProgressRootProps, "value"> {
  /** What it is the progress of. */
  label: string;
  /** From 0 to 1. */
  share: number;
}

export function ThinBar({ label, share, ...rest }: Props) {
  return (
    <Progress.Root size="xs" value={Math.round(share * 100)} aria-label={label} {...rest}>
      <Progress.Track bg="paperDeep">
        <Progress.Range bg="verdigris" />
      </Progress.Track>
    </Progress.Root>
  );
}
