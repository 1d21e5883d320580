// What lies over the scene: light words with a shadow, that let the pointer through beside them.
import { css } from 'styled-components';

export const overScene = css`
  position: absolute;
  left: 12px;
  right: 12px;
  display: flex;
  color: #f2f0f1;
  text-shadow: 0 1px 2px #000a;
  pointer-events: none;
  > * {
    pointer-events: auto;
  }
  button {
    color: #f2f0f1;
  }
`;
