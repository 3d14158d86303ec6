{
 "format": "wild-heron-move",
 "version": 1,
 "move": {
  "name": "Through the layers",
  "line": "Flies in through what stands before the subject.",
  "tags": [
   "bold",
   "push"
  ],
  "frames": 120.0,
  "nodes": [
   {
    "kind": "camera",
    "id": "camera",
    "name": "Camera",
    "channels": [
     {
      "name": "position.z",
      "value": 10.0,
      "keys": [
       {
        "frame": 0.0,
        "value": 10.0,
        "span": {
         "type": "family",
         "name": "cubic",
         "direction": "in-out"
        }
       },
       {
        "frame": 120.0,
        "value": 3.0,
        "span": {
         "type": "family",
         "name": "cubic",
         "direction": "in-out"
        }
       }
      ]
     }
    ]
   }
  ],
  "camera": "camera",
  "focuses": true
 }
}
