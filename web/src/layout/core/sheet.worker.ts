import { serve } from "../../sketch/core/serve";
import address from "./sheet.wasm.gz?url";

serve(address, "sheet");
