import { Canvas, useThree } from "@react-three/fiber";
import { useEffect, useMemo, useRef } from "react";
import * as THREE from "three";
import { LabelDriver, LabelLayer, type Label } from "./labels";
import { MarksInView } from "./marks";
import { skinMaterial } from "./materials";
import { Plate, ScaleDriver } from "./plate";
import { type Flight, Rig } from "./rig";
import type { Marks, Skin } from "./skin";

export type Looks = { seeThrough: boolean; triangles: boolean; insideMarked: boolean };

type Props = {
  skin: Skin;
  marks: Marks | null;
  /** Places of the marks to draw, and the chosen one among them. */
  places: readonly number[];
  chosenPlace: number | null;
  labels: readonly Label[];
  chosenLabel: number | null;
  onChoose: (number: number) => void;
  looks: Looks;
  flight: Flight;
};

/** The model on its plate, with the marks of the open question. */
export function Viewer(props: Props) {
  const { skin, marks, looks } = props;
  const layer = useRef<HTMLDivElement>(null);
  const bar = useRef<HTMLDivElement>(null);
  return (
    <div className="dock absolute inset-0">
      <Canvas
        frameloop="demand"
        dpr={[1, 2]}
        gl={{ antialias: true, alpha: true, powerPreference: "high-performance" }}
        camera={{ fov: 32, up: [0, 0, 1], position: [1, -2, 1] }}
        aria-label="The model"
        tabIndex={-1}
      >
        <Lights />
        <Body skin={skin} looks={looks} />
        <Plate skin={skin} />
        {marks && (
          <MarksInView skin={skin} marks={marks} places={props.places} chosen={props.chosenPlace} />
        )}
        <Rig skin={skin} flight={props.flight} />
        <LabelDriver skin={skin} labels={props.labels} layer={layer} />
        <ScaleDriver bar={bar} />
      </Canvas>
      <LabelLayer
        layer={layer}
        labels={props.labels}
        chosen={props.chosenLabel}
        onChoose={props.onChoose}
      />
      <div
        ref={bar}
        className="pointer-events-none absolute bottom-7 left-4 h-1.5 border border-t-0 border-chalk after:absolute after:left-0 after:top-2 after:whitespace-nowrap after:text-small after:text-chalk after:content-[attr(data-mm)]"
      />
    </div>
  );
}

/** Soft light from above and a lamp that goes with the viewer. */
function Lights() {
  const { camera, scene } = useThree();
  useEffect(() => {
    const lamp = new THREE.DirectionalLight("#fff6e6", 1.5);
    lamp.position.set(-0.6, 0.9, 1);
    camera.add(lamp);
    scene.add(camera);
    return () => {
      camera.remove(lamp);
      scene.remove(camera);
    };
  }, [camera, scene]);
  return <hemisphereLight args={["#fffaf0", "#5d676a", 1.35]} position={[0, 0, 1]} />;
}

function Body({ skin, looks }: { skin: Skin; looks: Looks }) {
  const invalidate = useThree((state) => state.invalidate);
  const material = useMemo(skinMaterial, []);
  const wires = useMemo(
    () =>
      new THREE.MeshBasicMaterial({
        color: "#20282b",
        wireframe: true,
        transparent: true,
        opacity: 0.5,
      }),
    [],
  );
  useEffect(() => {
    material.transparent = looks.seeThrough;
    material.opacity = looks.seeThrough ? 0.3 : 1;
    material.depthWrite = !looks.seeThrough;
    material.needsUpdate = true;
    (material.userData.insideMarked as { value: number }).value = looks.insideMarked ? 1 : 0;
    invalidate();
  }, [material, looks, invalidate]);
  useEffect(() => () => skin.geometry.dispose(), [skin]);
  useEffect(() => invalidate(), [skin, invalidate]);
  return (
    <>
      <mesh geometry={skin.geometry} material={material} />
      {looks.triangles && <mesh geometry={skin.geometry} material={wires} renderOrder={1} />}
    </>
  );
}
