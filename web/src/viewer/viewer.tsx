import { Canvas, useThree } from "@react-three/fiber";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import * as THREE from "three";
import { Chart } from "./chart";
import { ChangedSkin, type Changes } from "./changes";
import type { Choice } from "./choice";
import { ChoiceHatch } from "./choice-hatch";
import type { Clip } from "./clip";
import { CutFaces } from "./cut-faces";
import { useFineness } from "./fineness";
import { LabelDriver, LabelLayer, type Label } from "./labels";
import type { Link } from "./link";
import type { LoadedSkin } from "./load-skin";
import { LostContext } from "./lost-context";
import { MarksInView } from "./marks";
import { hatchMaterial, skinMaterial } from "./materials";
import { type DrawnMeasure, MeasureDriver, MeasureLayer, MeasureLines } from "./measure-lines";
import { type Grip, type Hit, Picking, type PointerAt } from "./picking";
import { Plate, ScaleDriver } from "./plate";
import { depthText, type Probe, ProbeLine } from "./probe";
import { type Reference, ReferenceThing } from "./reference-thing";
import { RegionHatch } from "./region";
import { type Flight, Rig } from "./rig";
import {
  ALL_SHOWN,
  cornersInSight,
  partedSight,
  type Sight,
  type Spread,
  waysApart,
} from "./shells";
import { type Marks, placeAt, type Skin } from "./skin";
import type { Soundings } from "./soundings";
import { Wires } from "./wires";

const NO_PLACES: readonly number[] = [];
const NO_NAMES: readonly string[] = [];
const NO_LABELS: readonly Label[] = [];

export type Looks = {
  seeThrough: boolean;
  triangles: boolean;
  insideMarked: boolean;
  tinted: boolean;
  parallel: boolean;
};

/** What the tool in hand does with the pointer, and what it draws. */
export type InHand = {
  grip: Grip | null;
  /** Whether the left button is its own, and the right one turns the view. */
  taken: boolean;
  /** What a click would take here, in words; it may draw where that is. */
  hover: ((hit: Hit | null, at: PointerAt | null) => string) | null;
  choice: Choice | null;
  measures: readonly DrawnMeasure[];
  picks: readonly (readonly number[])[];
  reference: Reference | null;
  /** Where the model is cut, and whether what is away is drawn see-through. */
  clip: Clip | null;
  ghost: boolean;
  /** Shells that are being moved, and how far they are by now, mm. */
  carried: { shells: ReadonlySet<number>; by: readonly [number, number, number] } | null;
};

export const EMPTY_HANDED: InHand = {
  grip: null,
  taken: false,
  hover: null,
  choice: null,
  measures: [],
  picks: [],
  reference: null,
  clip: null,
  ghost: false,
  carried: null,
};

type Props = {
  skin: LoadedSkin;
  marks: Marks | null;
  /** Shells out of sight, and the chosen one. */
  sight: Sight;
  piece: number | null;
  /** What a shell is called where the pointer is. */
  nameOf: (shell: number) => string;
  /** A click: on a shell and perhaps on one of the places, or beside the model. */
  onPick: (shell: number | null, place: number | null, hit: Hit | null, at: PointerAt) => void;
  /** Places of the marks to draw, and the chosen one among them. */
  places: readonly number[];
  chosenPlace: number | null;
  labels: readonly Label[];
  chosenLabel: number | null;
  onChoose: (number: number) => void;
  looks: Looks;
  flight: Flight | null;
  /** Under what names the place of the camera is remembered; it is found under the first known. */
  remember?: readonly string[];
  /** Looked at from the same place as another view. */
  link: Link | null;
  /** The chart of depths instead of the plain skin, and the limit drawn on it. */
  soundings: Soundings | null;
  limit: number;
  /** The skin tinted by what changed instead. */
  changes: Changes | null;
  /** A line into the model, where its thickness was probed. */
  probe: Probe | null;
  /** Points picked on the model, and how far round each is meant. */
  region: { points: readonly (readonly number[])[]; reach: number } | null;
  inHand: InHand;
  /** Pieces pulled apart, only to be looked at; none by default. */
  spread?: Spread | null;
};

/** The model on its plate, with the marks of the open question. */
export function Viewer(props: Props) {
  const { skin, looks, sight, places, nameOf, onPick, inHand } = props;
  const { clip, carried } = inHand;
  const spread = !carried && props.spread && props.spread.share > 0 ? props.spread : null;
  // what stands on the model stands where the pieces are
  const displaced = spread !== null || carried !== null;
  const marks = displaced ? null : props.marks;
  const soundings = displaced ? null : props.soundings;
  const changes = displaced ? null : props.changes;
  const labels = displaced ? NO_LABELS : props.labels;
  const inMotion = carried?.shells;
  const [resting, moving] = useMemo(
    () => (inMotion ? partedSight(skin.starts, sight, inMotion) : [sight, null]),
    [skin, sight, inMotion],
  );
  const { piece } = props;
  const chosen = useMemo(() => (piece === null ? null : { ...ALL_SHOWN, only: piece }), [piece]);
  const layer = useRef<HTMLDivElement>(null);
  const readout = useRef<HTMLParagraphElement>(null);
  const { hover: hoverInHand } = inHand;
  const hover = useCallback(
    (hit: Hit | null, at: PointerAt | null) => {
      if (!readout.current) return;
      const told = hoverInHand?.(hit, at);
      const place = hit && hit.at.toArray().map((x) => x.toFixed(1));
      const where = hit ? `${told || nameOf(hit.shell)} at ${place!.join(", ")} mm` : "";
      const deep = hit && soundings && !hit.cut ? `, ${depthText(skin, soundings, hit)}` : "";
      readout.current.textContent = where + deep;
    },
    [nameOf, skin, soundings, hoverInHand],
  );
  const picked = useCallback(
    (hit: Hit | null, at: PointerAt) => {
      const place = hit && marks && !hit.cut ? placeAt(marks, places, hit.face) : null;
      onPick(hit?.shell ?? null, place, hit, at);
    },
    [onPick, marks, places],
  );
  const measureLayer = useRef<HTMLDivElement>(null);
  const bar = useRef<HTMLDivElement>(null);
  const [lost, setLost] = useState(false);
  return (
    <div className="dock absolute inset-0">
      <Canvas
        frameloop="demand"
        dpr={[1, 2]}
        gl={{
          antialias: true,
          alpha: true,
          stencil: true,
          powerPreference: "high-performance",
        }}
        onCreated={({ gl }) => {
          gl.localClippingEnabled = true;
        }}
        camera={{ fov: 32, up: [0, 0, 1], position: [1, -2, 1] }}
        role="img"
        aria-label="The model"
        tabIndex={-1}
      >
        <LostContext onLost={setLost} />
        <Lights />
        {changes?.faces === skin.corners.length / 3 ? (
          <ChangedSkin skin={skin} changes={changes} sight={sight} clip={clip} />
        ) : soundings ? (
          <Chart
            skin={skin}
            soundings={soundings}
            sight={sight}
            limit={props.limit}
            seeThrough={looks.seeThrough}
            clip={clip}
          />
        ) : null}
        {carried && moving && (
          <group position={[...carried.by]}>
            <Body
              skin={skin}
              looks={looks}
              sight={moving}
              clip={null}
              ghost={false}
              spread={null}
              bare={false}
            />
            <Hatched skin={skin} sight={moving} />
          </group>
        )}
        <Body
          skin={skin}
          looks={looks}
          sight={resting}
          clip={clip}
          ghost={inHand.ghost}
          spread={spread}
          bare={soundings !== null || changes?.faces === skin.corners.length / 3}
        />
        {props.probe && <ProbeLine skin={skin} probe={props.probe} />}
        {chosen && !displaced && <Hatched skin={skin} sight={chosen} />}
        {props.region && <RegionHatch skin={skin} sight={sight} {...props.region} />}
        {!displaced && inHand.choice?.length === skin.corners.length / 3 && (
          <ChoiceHatch skin={skin} faces={inHand.choice} clip={clip} />
        )}
        <MeasureLines skin={skin} measures={inHand.measures} />
        <MeasureDriver skin={skin} layer={measureLayer} />
        {inHand.reference && <ReferenceThing skin={skin} reference={inHand.reference} />}
        {!spread && (
          <Picking
            skin={skin}
            sight={sight}
            clip={clip}
            onHover={hover}
            onPick={picked}
            grip={inHand.grip}
          />
        )}
        <Plate skin={skin} />
        {marks && (
          <MarksInView
            skin={skin}
            marks={marks}
            places={soundings ? NO_PLACES : props.places}
            chosen={props.chosenPlace}
            bare={soundings !== null}
          />
        )}
        <Rig
          skin={skin}
          flight={props.flight}
          link={props.link}
          remember={props.remember ?? NO_NAMES}
          taken={inHand.taken}
          parallel={looks.parallel}
        />
        <LabelDriver skin={skin} labels={labels} layer={layer} />
        <ScaleDriver bar={bar} />
      </Canvas>
      <LabelLayer
        layer={layer}
        labels={labels}
        chosen={props.chosenLabel}
        onChoose={props.onChoose}
      />
      <MeasureLayer layer={measureLayer} measures={inHand.measures} picks={inHand.picks} />
      {lost && (
        <p role="status" className="absolute inset-x-0 top-1/2 px-8 text-center text-chalk">
          The graphics card has dropped the picture; it comes back by itself. Nothing is lost.
        </p>
      )}
      <p
        ref={readout}
        data-testid="readout"
        className="pointer-events-none absolute bottom-[calc(var(--foot,0px)+12px)] right-4 max-w-[70%] text-right text-small text-chalk"
      />
      <div
        ref={bar}
        className="pointer-events-none absolute bottom-[calc(var(--foot,0px)+28px)] left-4 h-1.5 border border-t-0 border-chalk after:absolute after:left-0 after:top-2 after:whitespace-nowrap after:text-small after:text-chalk after:content-[attr(data-mm)]"
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

type BodyProps = {
  skin: Skin;
  looks: Looks;
  sight: Sight;
  clip: Clip | null;
  ghost: boolean;
  spread: Spread | null;
  /** The faces themselves are drawn in another way; only what a cut lays open is drawn here. */
  bare: boolean;
};

function Body({ skin, looks, sight, clip, ghost, spread, bare }: BodyProps) {
  const invalidate = useThree((state) => state.invalidate);
  const material = useMemo(skinMaterial, []);
  const away = useMemo(
    () =>
      new THREE.MeshLambertMaterial({
        color: "#cdbfa6",
        transparent: true,
        opacity: 0.16,
        depthWrite: false,
        side: THREE.DoubleSide,
        flatShading: true,
      }),
    [],
  );
  useEffect(() => {
    material.transparent = looks.seeThrough;
    material.opacity = looks.seeThrough ? 0.3 : 1;
    material.depthWrite = !looks.seeThrough;
    const planes = clip ? clip.planes : null;
    material.clippingPlanes = planes;
    away.clippingPlanes = clip ? clip.backs : null;
    for (const one of [material, away]) one.needsUpdate = true;
    const { insideMarked, tinted } = material.userData as Record<string, { value: number }>;
    insideMarked!.value = looks.insideMarked ? 1 : 0;
    tinted!.value = looks.tinted ? 1 : 0;
    invalidate();
  }, [material, away, looks, clip, invalidate]);
  useEffect(() => clip?.follow(() => invalidate()), [clip, invalidate]);
  useEffect(
    () => () => {
      for (const one of [material, away]) one.dispose();
    },
    [material, away],
  );
  const roots = spread?.roots;
  const share = spread?.share ?? 0;
  const ways = useMemo(
    () => (roots ? new THREE.BufferAttribute(waysApart(skin, roots), 3) : null),
    [skin, roots],
  );
  useEffect(() => {
    (material.userData.spread as { value: number }).value = share;
    invalidate();
  }, [material, share, invalidate]);
  const fine = useFineness(skin, clip);
  const inSight = useMemo(
    () => partOf(skin, cornersInSight(skin, sight), ways),
    [skin, sight, ways],
  );
  const coarse = useMemo(
    () => skin.coarse && partOf(skin, cornersInSight(skin.coarse, sight), ways),
    [skin, sight, ways],
  );
  const drawn = fine ? inSight : (coarse ?? inSight);
  useEffect(() => {
    invalidate();
    return () => {
      inSight.dispose();
      coarse?.dispose();
    };
  }, [inSight, coarse, invalidate]);
  useEffect(() => invalidate(), [drawn, invalidate]);
  return (
    <>
      {!bare && <mesh geometry={drawn} material={material} frustumCulled={!spread} />}
      {/* the stand-in that is drawn while the view turns has other triangles than the model */}
      {looks.triangles && drawn === inSight && <Wires skin={skin} sight={sight} clip={clip} />}
      {clip && <CutFaces skin={skin} geometry={drawn} clip={clip} />}
      {clip && ghost && <mesh geometry={drawn} material={away} renderOrder={2} />}
    </>
  );
}

/** Some faces over the vertices of a skin. */
function partOf(
  skin: Skin,
  corners: Uint32Array,
  ways: THREE.BufferAttribute | null = null,
): THREE.BufferGeometry {
  const geometry = new THREE.BufferGeometry();
  if (ways) geometry.setAttribute("away", ways);
  for (const name of ["position", "tint"]) {
    geometry.setAttribute(name, skin.geometry.getAttribute(name));
  }
  geometry.setIndex(new THREE.BufferAttribute(corners, 1));
  geometry.boundingBox = skin.geometry.boundingBox;
  geometry.boundingSphere = skin.geometry.boundingSphere;
  return geometry;
}

/** Chosen pieces, in chalk hatching. */
function Hatched({ skin, sight }: { skin: Skin; sight: Sight }) {
  const invalidate = useThree((state) => state.invalidate);
  const mesh = useMemo(() => {
    const geometry = partOf(skin, cornersInSight(skin, sight));
    const made = new THREE.Mesh(geometry, hatchMaterial(0.55));
    made.renderOrder = 2;
    return made;
  }, [skin, sight]);
  useEffect(() => {
    invalidate();
    return () => {
      mesh.geometry.dispose();
      mesh.material.dispose();
      invalidate();
    };
  }, [mesh, invalidate]);
  return <primitive object={mesh} />;
}
