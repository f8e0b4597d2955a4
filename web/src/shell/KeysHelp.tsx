import Modal from "react-bootstrap/Modal";
import { GLOSSARY } from "./glossary";
import { KEYS } from "./keys";

export function KeysHelp({ show, onHide }: { show: boolean; onHide: () => void }) {
  return (
    <Modal show={show} onHide={onHide} centered animation={false} aria-labelledby="keys-title">
      <Modal.Header closeButton>
        <Modal.Title id="keys-title" as="h2">
          Keys
        </Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <dl className="keys">
          {KEYS.map(({ key, does }) => (
            <div key={key}>
              <dt>
                <kbd>{key}</kbd>
              </dt>
              <dd>{does}</dd>
            </div>
          ))}
        </dl>
        <details className="glossary">
          <summary>Words</summary>
          <dl>
            {Object.entries(GLOSSARY).map(([word, meaning]) => (
              <div key={word}>
                <dt>{word}</dt>
                <dd>{meaning}</dd>
              </div>
            ))}
          </dl>
        </details>
        <p className="quiet">
          None of them fires while you type. Tick Stone helps you measure; it is not a safety device. Keep wheels off
          the floor for a first run, and a stop within reach.
        </p>
      </Modal.Body>
    </Modal>
  );
}
