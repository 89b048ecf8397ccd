import styled from "styled-components";

/** What is chosen above a page; not on paper. */
export const Choice = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  padding: 8px 14px;
  border-bottom: 1px solid var(--edge);
  & .room {
    flex: 1;
  }
  & a {
    color: var(--tuned);
    font-weight: 600;
  }
  @media print {
    display: none;
  }
`;

/** A page of the report: read on the screen, and alone on paper (A4 or Letter). */
export const Paper = styled.article`
  overflow: auto;
  flex: 1;
  padding: 18px 26px 30px;
  font-variant-numeric: tabular-nums;
  & h2 {
    margin: 0 0 2px;
    font-size: 20px;
  }
  & > p {
    margin: 0 0 12px;
    color: var(--muted);
  }
  & dl {
    display: grid;
    grid-template-columns: max-content 1fr;
    gap: 2px 14px;
    margin: 0 0 18px;
  }
  & dt {
    color: var(--muted);
  }
  & dd {
    margin: 0;
  }
  & table {
    width: 100%;
    table-layout: fixed;
    border-collapse: collapse;
    margin: 0 0 18px;
    font-size: 13.5px;
  }
  & caption {
    text-align: left;
    font-weight: 650;
    padding: 0 0 4px;
  }
  & caption em {
    font-weight: 400;
    font-style: normal;
    color: var(--muted);
  }
  & th {
    text-align: left;
    font-weight: 500;
    font-size: 12.5px;
    color: var(--muted);
    border-bottom: 1px solid var(--edge-strong);
    width: 9%;
  }
  & th:nth-child(3) {
    width: 16%;
  }
  & th:nth-child(6) {
    width: 30%;
  }
  & td {
    border-bottom: 1px solid var(--edge);
    padding: 2px 10px 2px 0;
    vertical-align: top;
    overflow-wrap: anywhere;
  }
  & td button {
    padding: 0;
    text-decoration: underline;
    text-decoration-color: var(--edge-strong);
  }
  & .number {
    text-align: right;
    padding-right: 18px;
  }
  & small {
    color: var(--muted);
  }
  @media print {
    overflow: visible;
    padding: 0;
    font-size: 10pt;
    & table {
      font-size: 9pt;
    }
    & tr,
    & dl {
      break-inside: avoid;
    }
    & caption {
      break-after: avoid;
    }
    & thead {
      display: table-header-group;
    }
    & td button {
      text-decoration: none;
    }
  }
`;
