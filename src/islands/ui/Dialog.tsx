import '@mantine/core/styles/ScrollArea.css';
import '@mantine/core/styles/Overlay.css';
import '@mantine/core/styles/Paper.css';
import '@mantine/core/styles/CloseButton.css';
import '@mantine/core/styles/Group.css';
import '@mantine/core/styles/ModalBase.css';
import '@mantine/core/styles/Modal.css';

/** A dialog over the screen. It brings its styles along: import it lazily. */
export { Modal as Dialog } from '@mantine/core';
