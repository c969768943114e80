import '@mantine/core/styles/Tooltip.css';
import { Tooltip } from '@mantine/core';
import type { RefObject } from 'react';

/** The words of a hint beside what they explain. */
export default function HintBubble(props: {
  readonly id: string;
  readonly text: string;
  readonly shown: boolean;
  readonly target: RefObject<HTMLElement | null>;
}) {
  return <Tooltip id={props.id} label={props.text} opened={props.shown} target={props.target} multiline maw={280} />;
}
