import { serve } from "./serve";
import address from "./sketch.wasm.gz?url";

serve(address, "sketch");
