{
 "format": "wild-heron-move",
 "version": 1,
 "move": {
  "name": "Drift down",
  "line": "A slow, even glide down: keeps a still picture alive.",
  "tags": [
   "calm",
   "drift"
  ],
  "frames": 120.0,
  "nodes": [
   {
    "kind": "camera",
    "id": "camera",
    "name": "Camera",
    "channels": [
     {
      "name": "position.y",
      "value": 0.2,
      "keys": [
       {
        "frame": 0.0,
        "value": 0.2,
        "span": {
         "type": "linear"
        }
       },
       {
        "frame": 120.0,
        "value": -0.2,
        "span": {
         "type": "linear"
        }
       }
      ]
     },
     {
      "name": "position.z",
      "value": 3.3
     }
    ]
   }
  ],
  "camera": "camera",
  "rest": "middle",
  "focuses": true
 }
}
