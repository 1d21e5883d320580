import { createGlobalStyle } from 'styled-components';

export const GlobalStyle = createGlobalStyle`
  *, *::before, *::after { box-sizing: border-box; }
  html { color-scheme: ${({ theme }) => theme.scheme}; }
  html, body, #root { height: 100%; margin: 0; }
  body {
    background: ${({ theme }) => theme.ground};
    color: ${({ theme }) => theme.text};
    font: 13px/1.45 ${({ theme }) => theme.sans};
    font-variant-numeric: tabular-nums;
    -webkit-font-smoothing: antialiased;
    overflow: hidden;
  }
  h1, h2, h3, p { margin: 0; font-weight: 400; }
  button, input, select, textarea { font: inherit; color: inherit; }
  a { color: inherit; }
  :focus-visible {
    outline: 2px solid ${({ theme }) => theme.thorn};
    outline-offset: 2px;
    border-radius: 2px;
  }
  ::selection { background: ${({ theme }) => theme.thorn}; color: ${({ theme }) => theme.onThorn}; }
  @media (prefers-reduced-motion: reduce) {
    *, *::before, *::after { transition: none !important; animation: none !important; }
  }
`;
