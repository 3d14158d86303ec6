{
 "format": "wild-heron-move",
 "version": 1,
 "move": {
  "name": "Drift left",
  "line": "A slow, even glide left: keeps a still picture alive.",
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
      "name": "position.x",
      "value": 0.3,
      "keys": [
       {
        "frame": 0.0,
        "value": 0.3,
        "span": {
         "type": "linear"
        }
       },
       {
        "frame": 120.0,
        "value": -0.3,
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
