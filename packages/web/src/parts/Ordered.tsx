// A thing of a list whose order can be changed: a grip drags it, by mouse or by keys, and it takes the place
// of the one that it is dropped on.
import { GripVertical } from 'lucide-react';
import { useRef, type ReactNode } from 'react';
import { mergeProps, useButton, useDrag, useDrop, useFocusRing, isTextDropItem } from 'react-aria';
import styled from 'styled-components';

const Row = styled.div<{ $target: boolean; $dragged: boolean; $across: boolean }>`
  position: relative;
  height: ${({ $across }) => ($across ? '100%' : 'auto')};
  opacity: ${({ $dragged }) => ($dragged ? 0.5 : 1)};
  box-shadow: ${({ theme, $target, $across }) => {
    if (!$target) return 'none';
    return `${$across ? '-3px 0' : '0 -2px'} 0 ${theme.thorn}`;
  }};
`;
const Grip = styled.button<{ $shown: boolean; $across: boolean }>`
  position: absolute;
  z-index: 1;
  left: ${({ $across }) => ($across ? '8px' : '-5px')};
  top: ${({ $across }) => ($across ? '8px' : '26px')};
  padding: ${({ $across }) => ($across ? '6px 4px' : '2px 1px')};
  border-radius: 4px;
  border: none;
  background: ${({ theme, $across }) => ($across ? theme.panel : 'none')};
  color: ${({ theme, $across }) => ($across ? theme.text : theme.quiet)};
  line-height: 0;
  cursor: grab;
  opacity: ${({ $shown }) => ($shown ? 1 : 0)};
  ${Row}:hover > & {
    opacity: 1;
  }
`;

/** What is being dragged: it cannot take its own place. */
let underWay: string | null = null;

export function Ordered({
  list,
  id,
  name,
  onDrop,
  across = false,
  children,
}: {
  /** What may be dropped on each other has the same one. */
  list: string;
  id: string;
  name: string;
  /** Another thing of the list is to take this one's place. */
  onDrop: (dragged: string) => void;
  /** Whether the things stand beside each other. */
  across?: boolean;
  children: ReactNode;
}): ReactNode {
  const type = `application/x-bramblemist-${list}`;
  const row = useRef<HTMLDivElement>(null);
  const grip = useRef<HTMLButtonElement>(null);
  const { dragProps, dragButtonProps, isDragging } = useDrag({
    hasDragButton: true,
    getItems: () => [{ [type]: id }],
    getAllowedDropOperations: () => ['move'],
    onDragStart: () => void (underWay = id),
    onDragEnd: () => void (underWay = null),
  });
  const { buttonProps } = useButton({ ...dragButtonProps, 'aria-label': `Drag ${name}` }, grip);
  const { focusProps, isFocusVisible } = useFocusRing();
  const { dropProps, isDropTarget } = useDrop({
    ref: row,
    getDropOperation: (types) => (types.has(type) && underWay !== id ? 'move' : 'cancel'),
    onDrop: ({ items }) => {
      const own = items.filter(isTextDropItem).find((item) => item.types.has(type));
      void own?.getText(type).then(onDrop);
    },
  });
  return (
    <Row
      ref={row}
      {...dropProps}
      role="group"
      tabIndex={-1}
      aria-label={isDropTarget ? `In place of ${name}` : name}
      $target={isDropTarget && !isDragging}
      $dragged={isDragging}
      $across={across}
    >
      <Grip
        ref={grip}
        {...mergeProps(dragProps, buttonProps, focusProps)}
        title={`Drag ${name} to another place`}
        $shown={isFocusVisible || isDragging}
        $across={across}
      >
        <GripVertical size={12} />
      </Grip>
      {children}
    </Row>
  );
}
