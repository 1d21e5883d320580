// A sheet over the page, and what veils the page behind it.
import { Modal, ModalOverlay } from 'react-aria-components';
import styled from 'styled-components';

export const Veil = styled(ModalOverlay)`
  position: fixed;
  inset: 0;
  z-index: 50;
  background: #0007;
`;
export const Sheet = styled(Modal)`
  position: absolute;
  top: 12vh;
  left: 50%;
  width: min(560px, 92vw);
  transform: translateX(-50%);
  background: ${({ theme }) => theme.panel};
  border: 1px solid ${({ theme }) => theme.line};
  border-radius: 8px;
  box-shadow: 0 16px 48px #000a;
  section {
    outline: none;
    padding: 12px;
  }
  h2 {
    font: italic 17px/1.2 ${({ theme }) => theme.serif};
    color: ${({ theme }) => theme.thorn};
    margin: 0 0 8px;
  }
`;
