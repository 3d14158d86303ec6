{
 "format": "wild-heron-move",
 "version": 1,
 "move": {
  "name": "Two-beat nudge",
  "line": "A small step nearer on each of two beats.",
  "tags": [
   "lively",
   "beat"
  ],
  "frames": 24.0,
  "beats": 2.0,
  "nodes": [
   {
    "kind": "camera",
    "id": "camera",
    "name": "Camera",
    "channels": [
     {
      "name": "position.z",
      "value": 3.3,
      "keys": [
       {
        "frame": 0.0,
        "value": 3.3,
        "span": {
         "type": "family",
         "name": "expo",
         "direction": "out"
        }
       },
       {
        "frame": 12.0,
        "value": 3.15,
        "span": {
         "type": "family",
         "name": "expo",
         "direction": "out"
        }
       },
       {
        "frame": 24.0,
        "value": 3.0,
        "span": {
         "type": "linear"
        }
       }
      ]
     }
    ]
   }
  ],
  "camera": "camera",
  "focuses": true,
  "smooth": false
 }
}
